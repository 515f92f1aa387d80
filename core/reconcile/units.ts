import type { Network, Program } from '#core/catalogue';
import { heardRefunds, nameCauses, nameRepeats } from './causeStage.ts';
import { flagPairs } from './flagStage.ts';
import type { ReportMatch } from './join.ts';
import type { Covered, HoldingLink, UnreadName } from './lookup.ts';
import { lookupOf } from './lookup.ts';
import type { Clicks } from './matchStage.ts';
import { matchPairs } from './matchStage.ts';
import { priceSides } from './priceStage.ts';
import type { Unit } from './unit.ts';
import { pairAt } from './unit.ts';

export interface UnitsInput {
  readonly pairs: readonly ReportMatch[];
  readonly clicks: Clicks;
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly covered: readonly Covered[];
  readonly links: readonly HoldingLink[];
  /** Clicks people chose, by the unit's ID. */
  readonly chosen: ReadonlyMap<string, string>;
  /** Postbacks that could not be read. */
  readonly unread: readonly UnreadName[];
}

/**
 * Builds the units of everything both sides say, by time, in four stages, each of which knows only what those before it
 * gave: match the clicks, price both sides, name the causes, set the flags.
 */
export const makeUnits = ({
  pairs,
  clicks,
  networks,
  programs,
  covered,
  links,
  chosen,
  unread,
}: UnitsInput): Unit[] => {
  const lookup = lookupOf(networks, programs, covered, links, unread);
  const ordered = [...pairs].sort((a, b) => pairAt(a) - pairAt(b));
  const matches = matchPairs(ordered, clicks, lookup, chosen);
  const sides = priceSides(ordered, matches, lookup);
  const causes = nameCauses(ordered, sides, lookup);
  const heard = heardRefunds(ordered, sides, lookup);
  const flags = flagPairs(ordered, matches, clicks, lookup);
  const units = ordered.map((pair, i): Unit => {
    const [found, both, flagged, cause] = [matches[i], sides[i], flags[i], causes[i]];
    if (!found || !both || !flagged) throw new Error('Each stage gives one for each pair.');
    const { id, network, program, link, source, match } = found;
    const unit: { -readonly [K in keyof Unit]: Unit[K] } = {
      id,
      network,
      program,
      link,
      source,
      match,
      flags: flagged,
    };
    if (both.ours) unit.ours = both.ours;
    if (both.theirs) unit.theirs = both.theirs;
    if (pair.ours) unit.conversion = pair.ours;
    if (pair.theirs) unit.reported = pair.theirs;
    if (cause) unit.cause = cause;
    if (heard.has(i)) unit.heard = true;
    return unit;
  });
  return nameRepeats(units);
};
