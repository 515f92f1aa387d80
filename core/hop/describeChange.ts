import { dequal } from 'dequal';
import { diffArrays } from 'diff';
import type { Branch, Conditions, HopChoices, Hours, Link, Marks } from '#core/catalogue';
import { fieldName } from '#core/catalogue';
import { describeConditions } from './conditions.ts';
import { choiceWords } from './words.ts';

/** A piece of a changed address: it stayed, went or came. */
export interface DiffPiece {
  readonly text: string;
  readonly kind: 'same' | 'gone' | 'new';
}

/** One thing that a change did. */
export interface DescribedChange {
  /** A sentence without the address where there is a `diff`: `redirect type from 307 to 302`. */
  readonly words: string;
  /** What changed inside an address, piece by piece. */
  readonly diff?: readonly DiffPiece[];
}

type Fields = Readonly<Record<string, unknown>>;

/** What changed inside an address: its pieces between the signs that part them. */
export const diffOf = (before: string, after: string): DiffPiece[] => {
  const pieces = (text: string) => text.split(/([/?&=#]|%[0-9A-Fa-f]{2})/).filter((piece) => piece !== '');
  return diffArrays(pieces(before), pieces(after)).map(({ value, added, removed }) => ({
    text: value.join(''),
    kind: added ? 'new' : removed ? 'gone' : 'same',
  }));
};

const byDomain = 'what its domain does';
const longest = 70;
const short = (text: string): string => (text.length > longest ? `${text.slice(0, longest - 1)}…` : text);

/** A value as words; empty where there is none. */
const inWords = (value: unknown): string => {
  if (value === undefined || value === null) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.length === 0 ? 'none' : short(value.join(', '));
  if (typeof value === 'object')
    return short(
      Object.entries(value)
        .map(([name, part]) => `${name} ${inWords(part)}`)
        .join(', '),
    );
  return short(String(value));
};

const fromTo = (name: string, from: unknown, to: unknown, nothing = ''): DescribedChange => {
  const [a, b] = [inWords(from) || nothing, inWords(to) || nothing];
  if (a === '' && b === '') return { words: `${name} changed` };
  if (a === '') return { words: `${name} set to ${b}` };
  return { words: b === '' ? `${name} ${a} taken away` : `${name} from ${a} to ${b}` };
};

/** What differs between two records with the same names, name by name. */
const each = <T extends object>(
  before: Partial<T>,
  after: Partial<T>,
  words: Readonly<Record<string, string>>,
  nothing: string,
): DescribedChange[] =>
  Object.keys(words).flatMap((name) => {
    const [from, to] = [before[name as keyof T], after[name as keyof T]]; // a name of one of them
    return dequal(from, to) ? [] : [fromTo(words[name] ?? name, from, to, nothing)];
  });

const markWords: Readonly<Record<keyof Marks, string>> = {
  rel: 'rel',
  newTab: 'new tab',
  title: 'hover title',
};
const hourWords: Readonly<Record<keyof Hours, string>> = {
  from: 'opens',
  until: 'closes',
  zone: 'zone of its hours',
  before: 'what it answers before',
  after: 'what it answers after',
};

const address = (words: string, before: string, after: string): DescribedChange[] =>
  before === after ? [] : [{ words, diff: diffOf(before, after) }];

const nameOf = (branch: Branch): string => branch.name || describeConditions(branch.when) || 'for everyone';
const whenOf = (when: Conditions): string => describeConditions(when) || 'everyone';

const branchChanges = (before: readonly Branch[], after: readonly Branch[]): DescribedChange[] => {
  const changes = after.flatMap((branch): DescribedChange[] => {
    const old = before.find(({ id }) => id === branch.id);
    const name = `branch ${nameOf(branch)}`;
    if (!old) return [{ words: `${name} added, to ${short(branch.destination)}` }];
    return [
      ...(old.name === branch.name ? [] : [fromTo(`name of ${name}`, old.name, branch.name)]),
      ...(dequal(old.when, branch.when)
        ? []
        : [{ words: `${name}: for ${whenOf(branch.when)} instead of ${whenOf(old.when)}` }]),
      ...(old.weight === branch.weight ? [] : [fromTo(`weight of ${name}`, old.weight, branch.weight)]),
      ...address(`destination of ${name}`, old.destination, branch.destination),
    ];
  });
  const gone = before.filter(({ id }) => !after.some((branch) => branch.id === id));
  const stay = (list: readonly Branch[], other: readonly Branch[]) =>
    list.filter(({ id }) => other.some((branch) => branch.id === id)).map(({ id }) => id);
  return [
    ...changes,
    ...gone.map((branch) => ({ words: `branch ${nameOf(branch)} taken away` })),
    ...(dequal(stay(before, after), stay(after, before))
      ? []
      : [{ words: 'branches tried in another order' }]),
  ];
};

const archivedWords = (archived: Link['archived']): string =>
  archived === undefined
    ? 'brought back'
    : archived.to === undefined
      ? 'archived'
      : 'archived, answers as another link';

/** What a change of a link did, one thing after the other; what changed inside an address is given piece by piece. */
export const describeChange = (before: object | null, after: object | null): DescribedChange[] => {
  if (before === null) return [{ words: 'made' }];
  if (after === null) return [{ words: 'removed' }];
  const [from, to]: [Fields, Fields] = [{ ...before }, { ...after }];
  const names = [...new Set([...Object.keys(from), ...Object.keys(to)])];
  return names.flatMap((name): DescribedChange[] => {
    const [a, b] = [from[name], to[name]];
    if (dequal(a, b)) return [];
    // A version of a link passed its schema: each field is what its name says.
    switch (name) {
      case 'destination':
        return address('destination', a as string, b as string);
      case 'hop':
        return each<HopChoices>(
          (a ?? {}) as Partial<HopChoices>,
          (b ?? {}) as Partial<HopChoices>,
          choiceWords,
          byDomain,
        );
      case 'marks':
        return each<Marks>((a ?? {}) as Partial<Marks>, (b ?? {}) as Partial<Marks>, markWords, byDomain);
      case 'hours':
        return each<Hours>((a ?? {}) as Hours, (b ?? {}) as Hours, hourWords, '');
      case 'branches':
        return branchChanges((a ?? []) as Branch[], (b ?? []) as Branch[]);
      case 'archived':
        return [{ words: archivedWords(b as Link['archived']) }];
      default:
        return [fromTo(fieldName(name), a, b)];
    }
  });
};
