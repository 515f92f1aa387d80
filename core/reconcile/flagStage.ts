import type { ReportMatch } from './join.ts';
import type { Lookup } from './lookup.ts';
import type { Clicks, PairMatch } from './matchStage.ts';
import type { Flag } from './unit.ts';
import { isRefund, pairAt, pairNames } from './unit.ts';

const dayMs = 86_400_000;
/** Clocks of two machines may be so far apart. */
const clockMs = 120_000;
const noFlags: readonly Flag[] = [];

/** Rows of clicks that conversions of two programs claim. */
const contestedRows = (matches: readonly PairMatch[], clicks: Clicks): ReadonlySet<number> => {
  const claims = new Map<number, PairMatch>();
  const contested = new Set<number>();
  const programOf = ({ named, match }: PairMatch) => (named === '' ? clicks.programOf(match.row) : named);
  for (const one of matches) {
    if (!one.certain) continue;
    const { row } = one.match;
    const other = claims.get(row);
    if (other === undefined) claims.set(row, one);
    else if (other.network !== one.network || programOf(other) !== programOf(one)) contested.add(row);
  }
  return contested;
};

/**
 * Says what else is to be said of each pair, in the order given, by time: what recurs is credited by its first, so that one
 * has to come before it.
 */
export const flagPairs = (
  pairs: readonly ReportMatch[],
  matches: readonly PairMatch[],
  clicks: Clicks,
  lookup: Lookup,
): (readonly Flag[])[] => {
  const contested = contestedRows(matches, clicks);
  /** Rows of the clicks of which a conversion came within the window, by network. */
  const creditedOf = new Map<string, Set<number>>();
  return pairs.map((pair, i) => {
    const found = matches[i];
    if (!found?.certain || isRefund(pair)) return noFlags;
    const { network, first, match } = found;
    const { row } = match;
    const flags: Flag[] = [];
    const clickAt = clicks.at(row);
    // A row of a report may know its day only; then the whole of it counts.
    const latest = pair.ours ? pair.ours.at : pair.theirs.at + dayMs;
    if (latest < clickAt - clockMs) flags.push('before its click');
    const recurring = lookup.network(network)?.postback.recurs?.includes(pairNames(pair).event) === true;
    const recurs = first?.row === row || recurring;
    let credited = creditedOf.get(network);
    if (!credited) creditedOf.set(network, (credited = new Set()));
    if (pairAt(pair) <= clickAt + lookup.cookieDays(network) * dayMs) credited.add(row);
    else if (!recurs || !credited.has(row)) flags.push('outside the window');
    const outcome = clicks.outcome(row);
    if (outcome === 'bot') flags.push('click of a bot');
    if (outcome === 'test') flags.push('click of a test');
    if (contested.has(row)) flags.push('claimed twice');
    return flags.length === 0 ? noFlags : flags;
  });
};
