import type { StatementEntry, Writers } from '#core/queries';

/** Money of one currency in a statement, in minor units. */
export interface StatementSum {
  readonly currency: string;
  readonly sales: number;
  readonly unpriced: number;
  readonly approved: number;
  /** Approved, or taken back, of earlier closed months since. */
  readonly earlier: number;
  readonly pending: number;
  readonly worth: number;
}

/** What one link adds to a statement in one currency. */
export interface StatementLine extends StatementSum {
  /** ID of the link; empty where it is not known any more. */
  readonly link: string;
  readonly network: string;
}

/** What one writer earned in a month: a statement of it can be sent. */
export interface Statement {
  readonly writer: string;
  /** `2026-10` */
  readonly month: string;
  /** Account tags that were credited, with the IDs of their networks. */
  readonly tags: readonly { readonly tag: string; readonly network: string }[];
  /** Most sales first. */
  readonly sums: readonly StatementSum[];
  /** Of each currency in the order of the sums, dearest first. */
  readonly lines: readonly StatementLine[];
  readonly entries: readonly StatementEntry[];
  readonly networks: Writers['networks'];
}

/** By what a writer stands in an address: the owner's name, or the tag that nobody registered behind `#`. */
export const writerKey = ({ owner, tag }: Pick<StatementEntry, 'owner' | 'tag'>): string =>
  owner === '' ? `#${tag}` : owner;

/** How a writer is called. */
export const writerName = ({ owner, tag }: Pick<StatementEntry, 'owner' | 'tag'>): string =>
  owner || (tag === '' ? 'Nobody: no tag' : `Not registered: ${tag}`);

const nothing = { sales: 0, unpriced: 0, approved: 0, earlier: 0, pending: 0, worth: 0 };

/** A sum with one entry more; what changed of earlier months adds to that alone. */
const added = <S extends Omit<StatementSum, 'currency'>>(sum: S, entry: StatementEntry): S =>
  entry.changes === undefined
    ? {
        ...sum,
        sales: sum.sales + (entry.isSale ? 1 : 0),
        unpriced: sum.unpriced + (entry.isUnpriced ? 1 : 0),
        approved: sum.approved + entry.approved,
        pending: sum.pending + entry.pending,
        worth: sum.worth + entry.worth,
      }
    : { ...sum, earlier: sum.earlier + entry.approved };

/** What a writer earned, of all that was earned in a month; undefined where it was nothing. */
export const statementOf = (
  { entries: all, networks }: Writers,
  month: string,
  writer: string,
): Statement | undefined => {
  const entries = all
    .filter((entry) => writerKey(entry) === writer)
    .toSorted((a, b) => (a.at ?? 0) - (b.at ?? 0) || (a.txn < b.txn ? -1 : 1));
  const [first] = entries;
  if (!first) return undefined;
  const sums = new Map<string, StatementSum>();
  const lines = new Map<string, StatementLine>();
  const tags = new Map<string, Statement['tags'][number]>();
  for (const entry of entries) {
    const { currency, link, network, tag } = entry;
    sums.set(currency, added(sums.get(currency) ?? { currency, ...nothing }, entry));
    const key = JSON.stringify([link, network, currency]);
    lines.set(key, added(lines.get(key) ?? { link, network, currency, ...nothing }, entry));
    if (tag !== '') tags.set(`${network} ${tag}`, { tag, network });
  }
  const own = new Set(entries.map(({ network }) => network));
  const ordered = [...sums.values()].sort((a, b) => b.sales - a.sales || (a.currency < b.currency ? -1 : 1));
  const places = new Map(ordered.map(({ currency }, place) => [currency, place]));
  const place = ({ currency }: StatementSum) => places.get(currency) ?? 0;
  const worth = ({ approved, earlier, pending }: StatementSum) => approved + earlier + pending;
  return {
    ...{ writer: writerName(first), month, entries },
    tags: [...tags.values()],
    sums: ordered,
    lines: [...lines.values()].sort((a, b) => place(a) - place(b) || worth(b) - worth(a)),
    networks: networks.filter(({ network }) => own.has(network)),
  };
};
