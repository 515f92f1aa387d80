import type { Domain, Link, RecordKind } from './records.ts';
import { pathsOf } from './defaults.ts';

/** As much of a link as tells what it leans on. */
export interface LeaningLink {
  readonly id: string;
  readonly slug: string;
  readonly domain: string;
  readonly network?: string | undefined;
  readonly program?: string | undefined;
  readonly archived?: Link['archived'] | undefined;
}

/** Whatever may lean on another record. */
export interface Leaning {
  readonly links: Iterable<LeaningLink>;
  readonly programs: Iterable<{ readonly name: string; readonly network: string }>;
  readonly accounts: Iterable<{ readonly network: string }>;
}

/** `a, b and 3 more`. */
const some = (names: readonly string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 3).join(', ')} and ${names.length - 3} more`;

const counted = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`;

/**
 * Why a record cannot be removed, with who leans on it and what to do first; undefined where nobody does. The server and
 * the screen ask the same.
 */
export const leaningProblem = (
  kind: RecordKind,
  record: string,
  { links, programs, accounts }: Leaning,
): string | undefined => {
  const slugs = (leans: (link: LeaningLink) => boolean): string[] =>
    [...links].filter((link) => link.id !== record && leans(link)).map((link) => link.slug);
  const byLinks = (found: readonly string[], what: string): string | undefined =>
    found.length === 0 ? undefined : `Used by ${counted(found.length, 'link')}: ${some(found)}. ${what}`;
  switch (kind) {
    case 'domain':
      return byLinks(
        slugs((link) => link.domain === record),
        'Their addresses would lead nowhere; move them to another domain first.',
      );
    case 'program':
      return byLinks(
        slugs((link) => link.program === record),
        'They are held to its rules; give them another program first.',
      );
    case 'link':
      return byLinks(
        slugs((link) => link.archived?.to === record),
        'Archived, they hand their visitors to it; archive them to another link first.',
      );
    case 'network': {
      const ofLinks = slugs((link) => link.network === record);
      const names = [...programs].filter(({ network }) => network === record).map(({ name }) => name);
      const tags = [...accounts].filter(({ network }) => network === record).length;
      const parts = [
        ...(ofLinks.length > 0 ? [`${counted(ofLinks.length, 'link')} (${some(ofLinks)})`] : []),
        ...(names.length > 0 ? [`${counted(names.length, 'program')} (${some(names)})`] : []),
        ...(tags > 0 ? [counted(tags, 'account tag')] : []),
      ];
      return parts.length === 0
        ? undefined
        : `Used by ${parts.join(', ')}. Its postbacks would be refused; remove or move those first.`;
    }
    default:
      return undefined;
  }
};

type Placed = LeaningLink & { readonly group?: string; readonly aliases: readonly string[] };

/**
 * An address of a domain that would answer with another link, or with either of two, once the domain has another prefix or
 * shows groups; undefined where each keeps its own.
 *
 * @param owner the link that answers at a path now
 */
export const movedAddress = (
  links: Iterable<Placed>,
  next: Pick<Domain, 'prefix' | 'groups' | 'earlierPrefixes'>,
  owner: (path: string) => Placed | undefined,
): { readonly path: string; readonly from: Placed; readonly to: Placed } | undefined => {
  const claimed = new Map<string, Placed>();
  for (const link of links)
    for (const path of pathsOf(link, next)) {
      const other = claimed.get(path) ?? owner(path);
      if (other && other.id !== link.id) return { path, from: other, to: link };
      claimed.set(path, link);
    }
  return undefined;
};
