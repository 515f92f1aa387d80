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
  const claims = new Map<number, string>();
  const contested = new Set<number>();
  for (const { certain, match, network, named } of matches) {
    if (!certain) continue;
    const claimant = `${network} ${named === '' ? clicks.programOf(match.row) : named}`;
    const other = claims.get(match.row);
    if (other === undefined) claims.set(match.row, claimant);
    else if (other !== claimant) contested.add(match.row);
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
  /** Networks and clicks of which a conversion came within the window. */
  const credited = new Set<string>();
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
    const click = `${network} ${row}`;
    if (pairAt(pair) <= clickAt + lookup.cookieDays(network) * dayMs) credited.add(click);
    else if (!recurs || !credited.has(click)) flags.push('outside the window');
    const outcome = clicks.outcome(row);
    if (outcome === 'bot') flags.push('click of a bot');
    if (outcome === 'test') flags.push('click of a test');
    if (contested.has(row)) flags.push('claimed twice');
    return flags.length === 0 ? noFlags : flags;
  });
};
