import type { Role } from '#core/catalogue';
import { guessRole, pageInside } from './roles.ts';
import { decodeQueryText } from './queryText.ts';
import { hostOf, splitLink } from './splitLink.ts';

/** What a parameter turned out to be when several links of one network were laid side by side. */
export interface Compared {
  readonly name: string;
  readonly role: Role;
  /** A plain sentence. */
  readonly reason: string;
  /** Its values, each once, decoded. */
  readonly values: readonly string[];
}

/**
 * Lays links of one network side by side: what stays the same is the account, what varies is the program, the creative
 * or the page. A parameter that changes just when the shop changes is the program; one that varies otherwise is the
 * creative.
 *
 * @param links two or more links with the same host; others tell nothing
 */
export const compareSamples = (links: readonly string[]): Compared[] => {
  const rows = links.map((link) => {
    const pairs = splitLink(link).pairs.filter((pair) => pair.name !== '');
    const page = pairs.map((pair) => pageInside(pair.value)).find((found) => found !== undefined);
    return { pairs, shop: page === undefined ? undefined : hostOf(page) };
  });
  const names = [...new Set(rows.flatMap((row) => row.pairs.map((pair) => pair.name)))];
  const valueIn = (row: (typeof rows)[number], name: string) =>
    row.pairs.find((pair) => pair.name === name)?.value;

  const compared = names.map((name): Compared => {
    const raw = rows.map((row) => valueIn(row, name));
    const present = raw.filter((value) => value !== undefined);
    const values = [...new Set(present.map(decodeQueryText))];
    const guess = guessRole({ name, value: present[0] ?? '', valueAt: 0, hasEquals: true });
    if (present.some((value) => pageInside(value) !== undefined))
      return { name, role: 'page', reason: 'Its value is an address.', values };
    if (guess.role === 'slot') return { name, role: 'slot', reason: guess.reason, values };
    if (present.length < 2 || values.every((value) => value === ''))
      return { name, role: 'other', reason: 'It says nothing in these links.', values };
    if (values.length === 1)
      return present.length === rows.length
        ? { name, role: 'account', reason: `It is ${values[0] ?? ''} in all ${rows.length} links.`, values }
        : { name, role: 'other', reason: 'It stays the same, but not every link has it.', values };
    const byShop = new Map<string, Set<string>>();
    for (const [i, row] of rows.entries()) {
      const value = raw[i];
      if (row.shop !== undefined && value !== undefined)
        byShop.set(row.shop, (byShop.get(row.shop) ?? new Set()).add(value));
    }
    const oneEach = byShop.size > 1 && [...byShop.values()].every((set) => set.size === 1);
    const shared = [...byShop.values()].flatMap((set) => [...set]);
    if (oneEach && new Set(shared).size === shared.length)
      return { name, role: 'program', reason: 'It changes just when the shop changes.', values };
    return { name, role: 'creative', reason: 'It varies from link to link.', values };
  });

  // Of several that stay the same the one that looks most like a name or number of somebody's is the account.
  const steady = compared.filter((c) => c.role === 'account');
  const account = steady.find((c) => /\d/.test(c.values[0] ?? '')) ?? steady[0];
  const varying = compared.filter((c) => c.role === 'creative');
  const program =
    compared.some((c) => c.role === 'program') || varying.length === 0
      ? undefined
      : varying.toSorted((a, b) => a.values.length - b.values.length)[0];
  return compared.map((c): Compared => {
    if (c.role === 'account' && c !== account)
      return { ...c, role: 'other', reason: `${c.reason} Another parameter looks more like the account.` };
    if (c === program && (varying.length > 1 || !rows.some((row) => row.shop !== undefined)))
      return { ...c, role: 'program', reason: 'It varies least of those that vary.' };
    return c;
  });
};
