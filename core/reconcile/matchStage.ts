import { element } from '#core/catalogue';
import { dayName } from '#core/hop';
import type { Outcome } from '#core/visits';
import type { ReportMatch } from './join.ts';
import type { Holder, Lookup } from './lookup.ts';
import type { ClickIndex, Match } from './match.ts';
import { matchClick } from './match.ts';
import { pairAt, pairNames, unitId } from './unit.ts';

/** What reconciling needs to know of the clicks. */
export interface Clicks extends ClickIndex {
  at(row: number): number;
  link(row: number): string;
  source(row: number): string;
  /** The name a source counts under. */
  sourceOf(name: string): string;
  outcome(row: number): Outcome;
  /** Program its link belongs to; empty where to none. */
  programOf(row: number): string;
  /** Counted clicks on links of a program, or of a whole network, in a stretch of time; at most so many. */
  between(network: string, program: string, from: number, until: number, most: number): number[];
  /** True where some of these are kept as daily counts only, so that nobody can say which they were. */
  someRolledUp(network: string, program: string, from: number, until: number): boolean;
}

/** The first conversion of a transaction that has a click. */
interface First {
  readonly row: number;
  readonly event: string;
  readonly at: number;
}

/** A pair with its click. */
export interface PairMatch {
  readonly id: string;
  readonly network: string;
  readonly match: Match;
  /** The click was found, and is not only probable: only then it says something. */
  readonly certain: boolean;
  /** The program its report row names; empty where it names none that is known. */
  readonly named: string;
  /** The program it belongs to by that or by its click; empty where neither tells, and so the two below. */
  readonly program: string;
  readonly link: string;
  readonly source: string;
  /** The first of the same transaction before it that has a click. */
  readonly first: First | undefined;
}

const dayMs = 86_400_000;

/**
 * The click a pair leads to: by the ID in the postback, else by that in the row, else by the first of its transaction,
 * else the only one that fits.
 */
const matchPair = (
  pair: ReportMatch,
  clicks: Clicks,
  program: string,
  cookieDays: number,
  first: First | undefined,
  holder: Holder | undefined,
): Match => {
  const { ours, theirs } = pair;
  const { network } = pairNames(pair);
  const own = ours && matchClick(ours.click === '' ? (ours.unfilled ?? '') : ours.click, network, clicks);
  if (own && own.row >= 0) return own;
  const row = theirs && matchClick(theirs.click, network, clicks);
  if (row && row.row >= 0)
    return ours
      ? {
          ...row,
          level: 'row',
          because: `The report row of ${theirs.txn === '' ? 'the same sale' : theirs.txn} carries the click ID.`,
        }
      : row;
  const failed = own ?? row;
  if (!failed) throw new Error('A pair has at least one side.');
  if (failed.level !== 'unfilled') return failed;
  if (first)
    return {
      level: 'recurring',
      row: first.row,
      because: `It carries no click ID; the ${first.event} of the same transaction on ${dayName(Math.floor(first.at / dayMs))} does.`,
    };
  if (holder)
    return {
      level: 'coupon',
      row: -1,
      because: `It carries no click ID; the coupon ${pair.theirs?.coupon ?? ''} is handed out with one link only.`,
    };
  const at = pairAt(pair);
  const near = clicks.between(network, program, at - cookieDays * dayMs, at, 2);
  const [only] = near;
  const isOnly = near.length === 1 && !clicks.someRolledUp(network, program, at - cookieDays * dayMs, at);
  return isOnly && only !== undefined
    ? {
        level: 'probable',
        row: only,
        because: `Only one click on this program fits in the ${cookieDays} days before it.`,
      }
    : failed;
};

const chosenMatch = (click: string | undefined, clicks: Clicks): Match | undefined => {
  const found = click === undefined ? undefined : clicks.beginningWith(click);
  return found?.count === 1
    ? { level: 'chosen', row: found.row(0), because: 'A person chose this click.' }
    : undefined;
};

const firstAt = (pair: ReportMatch, { match }: PairMatch): First => ({
  row: match.row,
  event: pairNames(pair).event,
  at: pairAt(pair),
});

/**
 * Finds the click of each pair, in the order given, by time: one without a click ID may rest on the first of its
 * transaction.
 *
 * @param chosen clicks people chose, by the unit's ID
 */
export const matchPairs = (
  pairs: readonly ReportMatch[],
  clicks: Clicks,
  lookup: Lookup,
  chosen: ReadonlyMap<string, string>,
): PairMatch[] => {
  /** Places of the first pairs of transactions that have a click, by network and transaction. */
  const firstOf = new Map<string, Map<string, number>>();
  const matches: PairMatch[] = [];
  for (const [place, pair] of pairs.entries()) {
    const id = unitId(pair);
    const { network, txn } = pairNames(pair);
    const named = pair.theirs ? lookup.programNamed(network, pair.theirs.program) : '';
    let firsts = firstOf.get(network);
    if (!firsts) firstOf.set(network, (firsts = new Map()));
    const transaction = txn === '' ? '' : lookup.txnKey(network, txn);
    const before = txn === '' ? undefined : firsts.get(transaction);
    const first =
      before === undefined ? undefined : firstAt(element(pairs[before]), element(matches[before]));
    const holder = lookup.holderOf(network, pair.theirs?.coupon ?? '');
    const match =
      chosenMatch(chosen.get(id), clicks) ??
      matchPair(pair, clicks, named, lookup.cookieDays(network), first, holder);
    const { row } = match;
    const certain = row >= 0 && match.level !== 'probable';
    if (certain && txn !== '' && !first) firsts.set(transaction, place);
    const held = match.level === 'coupon' ? holder : undefined;
    matches.push({
      id,
      network,
      match,
      certain,
      named,
      program: named === '' ? (certain ? clicks.programOf(row) : (held?.program ?? '')) : named,
      link: certain ? clicks.link(row) : (held?.link ?? ''),
      source: certain ? clicks.source(row) : clicks.sourceOf(held?.source ?? ''),
      first,
    });
  }
  return matches;
};
