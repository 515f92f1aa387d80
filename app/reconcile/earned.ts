import type { Account, Link, Network, Program } from '#core/catalogue';
import { accountTag } from '#core/anatomy';
import type { EarnedBy } from '../data/reconcileAnswers.ts';

/** What one account tag earned, in each currency. */
export interface EarnedByTag {
  readonly tag: string;
  /** Who or which site the tag stands for; empty where nobody registered it. */
  readonly owner: string;
  readonly network: string;
  readonly sums: readonly {
    readonly currency: string;
    readonly ours: number;
    readonly theirs: number;
    readonly sales: number;
  }[];
}

/** What the catalogue knows of links and tags. */
export interface Tags {
  readonly links: readonly Link[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly accounts: readonly Account[];
}

/** Groups earnings by the account tag in each link's destination; what has no link has no tag. Dearest first. */
export const earnedByTag = (
  earned: readonly EarnedBy[],
  { links, networks, programs, accounts }: Tags,
): EarnedByTag[] => {
  const byId = new Map(links.map((link) => [link.id, link]));
  const found = new Map<
    string,
    { tag: string; network: string; sums: Map<string, EarnedByTag['sums'][number]> }
  >();
  for (const { network, link, currency, ours, theirs, sales } of earned) {
    const destination = byId.get(link)?.destination;
    const tag = destination === undefined ? '' : accountTag(destination, networks, programs);
    const key = `${network} ${tag}`;
    const group = found.get(key) ?? { tag, network, sums: new Map() };
    const before = group.sums.get(currency) ?? { currency, ours: 0, theirs: 0, sales: 0 };
    group.sums.set(currency, {
      currency,
      ours: before.ours + ours,
      theirs: before.theirs + theirs,
      sales: before.sales + sales,
    });
    found.set(key, group);
  }
  const worth = ({ sums }: EarnedByTag) =>
    Math.max(...sums.map(({ ours, theirs }) => Math.max(ours, theirs)));
  return [...found.values()]
    .map(({ tag, network, sums }): EarnedByTag => ({
      tag,
      network,
      owner: accounts.find((account) => account.network === network && account.tag === tag)?.owner ?? '',
      sums: [...sums.values()],
    }))
    .sort((a, b) => worth(b) - worth(a));
};
