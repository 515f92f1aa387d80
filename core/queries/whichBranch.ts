import type { Branch, Link } from '#core/catalogue';
import { addTo, element } from '#core/catalogue';
import type { Compared, Evidence, Interval } from '#core/figures';
import { compareBranches, movedShares, profitBand } from '#core/figures';
import type { MissingRate } from '#core/costs';
import { dayIn, everyoneElse, sameConditions } from '#core/hop';
import { daysOf } from '#core/traffic';
import { outcomeNumber, segmentRows } from '#core/visits';
import { pricedConversion } from './countedUnits.ts';
import type { Dataset, QueriedLink } from './dataset.ts';
import { payoutMix, priorBefore } from './paysEvidence.ts';
import type { PaysQuestion } from './whatPays.ts';
import { knownOf } from './whatPays.ts';

export interface BranchQuestion extends Pick<PaysQuestion, 'from' | 'to' | 'currency' | 'now'> {
  /** ID of the link. */
  readonly link: string;
}

/** What came of a branch of a split; money in minor units of the one currency. */
export interface BranchLine {
  /** ID of the branch; that of the link's own destination is the name of the branch for everyone else. */
  readonly branch: string;
  /** Visitors, each once a day, who were shown this branch first. */
  readonly visitors: number;
  /** Their conversions that were not reversed, and what these earned: approved, and pending at its worth. */
  readonly conversions: number;
  readonly earned: number;
  /** A rate that is missing for what its visitors bought, so that nobody can say what it earned. */
  readonly unpriced: MissingRate | undefined;
  /** What a visitor earns; undefined where nothing tells what a conversion pays, a rate is missing, or nobody came. */
  readonly band: Interval | undefined;
  /** Beside the branch that earns most a visitor; undefined for that one, and where one of both has no band. */
  readonly beside: Compared | undefined;
}

/** Branches among which visitors of the same conditions are split, the one that earns most a visitor first. */
export interface BranchGroup {
  readonly when: Branch['when'];
  readonly lines: readonly BranchLine[];
  /** Visitors of all of them in thirty days at the pace since the first of them came. */
  readonly monthly: number;
}

/** Branches of a link among which visitors are split: those with the very same conditions. */
const groupsOf = ({
  branches = [],
}: Pick<QueriedLink, 'branches'>): { when: Branch['when']; ids: string[] }[] => {
  const groups: { when: Branch['when']; ids: string[] }[] = [{ when: {}, ids: [everyoneElse] }];
  for (const { id, when } of branches) {
    const known = groups.find((group) => sameConditions(group.when, when));
    if (known) known.ids.push(id);
    else groups.push({ when, ids: [id] });
  }
  return groups.filter(({ ids }) => ids.length > 1);
};

/** What is added up of a branch. */
interface Seen {
  visitors: number;
  ripe: number;
  readonly programs: Map<string, number>;
  stays: number;
  conversions: number;
  earned: number;
  unpriced: MissingRate | undefined;
}

/**
 * What came of the branches of a link's splits, side by side. A visitor counts for the branch that was shown first on a day, whatever else
 * was shown later, and so do the conversions of the day's clicks. Requests that were rolled up tell no branch and are left out.
 */
export const whichBranch = (
  data: Dataset,
  { link: id, from, to, currency, now }: BranchQuestion,
): BranchGroup[] => {
  const link = data.records.links.find((one) => one.id === id);
  const groups = link ? groupsOf(link) : [];
  if (groups.length === 0) return [];
  const { columns } = data.journal;
  const { outcomes } = data.classification;
  const days = daysOf(data.zone, from, to);
  const { units, usual, dimension } = knownOf(data, { currency, now });
  const program = dimension('program');
  const [first, until] = [element(days.starts[0]), element(days.starts[days.names.length])];
  const code = columns.dictionaries.link.texts.indexOf(id);
  const seen = new Map<string, Seen>();
  const seenOf = (branch: string): Seen => {
    let of = seen.get(branch);
    if (!of)
      seen.set(
        branch,
        (of = {
          ...{ visitors: 0, ripe: 0, programs: new Map(), stays: 0, conversions: 0, earned: 0 },
          unpriced: undefined,
        }),
      );
    return of;
  };

  /** By day and visitor what was shown first. */
  const shown = new Map<string, { readonly branch: string; readonly at: number; readonly name: string }>();
  const keyAt = (segment: (typeof columns.segments)[number], i: number, day: number): string =>
    `${day} ${element(segment.visitor[i * 2])} ${element(segment.visitor[i * 2 + 1])}`;
  const dayAt = (at: number): number => days.starts.findLastIndex((start) => start <= at);
  for (const [n, segment] of columns.segments.entries()) {
    if (code < 0 || (columns.newest[n] ?? -Infinity) < first) continue;
    const found = element(outcomes[n]);
    const toProgram = program.column(segment);
    for (let i = 0; i < segment.rows; i++) {
      if (segment.link[i] !== code) continue;
      const at = element(segment.at[i]);
      const outcome = element(found[i]);
      if (at < first || at >= until) continue;
      if (outcome !== outcomeNumber.counted && outcome !== outcomeNumber.repeat) continue;
      const key = keyAt(segment, i, dayAt(at));
      if ((shown.get(key)?.at ?? Infinity) <= at) continue;
      const branch = element(columns.dictionaries.branch.texts[element(segment.branch[i])]);
      shown.set(key, {
        branch,
        at,
        name: element(program.values[element(program.codes[element(toProgram[i])])]),
      });
    }
  }
  for (const { branch, at, name } of shown.values()) {
    const of = seenOf(branch);
    of.visitors += 1;
    of.ripe += usual.of(name).complete(Math.max(0, now - at));
    addTo(of.programs, name);
    of.unpriced ??= usual.of(name).unpriced;
  }
  for (const { unit, program: name, clickAt, minor } of units) {
    const { row } = unit.match;
    if (row < 0 || clickAt < first || clickAt >= until || columns.text('link', row) !== id) continue;
    const branch = shown.get(keyAt(columns.segmentOf(row), row % segmentRows, dayAt(clickAt)))?.branch;
    const { status, refundOnly } = unit.conversion;
    if (branch === undefined || refundOnly || status === 'reversed') continue;
    const chance = status === 'pending' ? (usual.of(name).approval?.share ?? 1) : 1;
    const of = seenOf(branch);
    of.stays += chance;
    of.conversions += 1;
    if (minor === undefined)
      of.unpriced ??= { currency: pricedConversion(unit).currency, day: dayIn(data.zone, clickAt) };
    else of.earned += minor * chance;
  }
  const begun = [...shown.values()].reduce((least, { at }) => Math.min(least, at), until - 1);
  const prior = priorBefore(data, days, units, usual.all.complete)(dayAt(begun));
  const evidenceOf = ({ visitors, ripe, stays, programs, unpriced }: Seen): Evidence | undefined => {
    const payout = visitors > 0 && !unpriced ? payoutMix(programs, usual.of) : undefined;
    return payout && { visitors, ripe, conversions: stays, cost: 0, payout, prior };
  };
  return groups.map(({ when, ids }) => {
    const all = ids.map((branch) => ({ branch, of: seenOf(branch), evidence: evidenceOf(seenOf(branch)) }));
    const each = ({ of }: (typeof all)[number]) =>
      of.visitors > 0 && !of.unpriced ? of.earned / of.visitors : -1;
    const sorted = all.toSorted((a, b) => each(b) - each(a) || ids.indexOf(a.branch) - ids.indexOf(b.branch));
    const best = sorted[0]?.evidence;
    // Which one is the best is not known before: each could be held against each.
    const pairs = (ids.length * (ids.length - 1)) / 2;
    const monthly =
      (30 * all.reduce((sum, { of }) => sum + of.visitors, 0)) / (days.names.length - dayAt(begun));
    return {
      when,
      monthly,
      lines: sorted.map(({ branch, of, evidence }, i): BranchLine => ({
        branch,
        visitors: of.visitors,
        conversions: of.conversions,
        earned: Math.round(of.earned),
        unpriced: of.unpriced,
        band: evidence && profitBand(evidence),
        beside: i > 0 && evidence && best ? compareBranches(evidence, best, monthly, pairs) : undefined,
      })),
    };
  });
};

/** A link with the weights that follow from what its branches earned; undefined where it has them already. Weights of nought stay. */
export const withMovedWeights = <T extends Pick<Link, 'movesWeights' | 'weight' | 'branches'>>(
  link: T,
  groups: readonly BranchGroup[],
): T | undefined => {
  if (!link.movesWeights) return undefined;
  const weightOf = (id: string): number =>
    id === everyoneElse ? (link.weight ?? 1) : (link.branches?.find((one) => one.id === id)?.weight ?? 0); // a branch that is gone
  const moved = new Map<string, number>();
  for (const { lines } of groups) {
    const open = lines.filter(({ branch }) => weightOf(branch) > 0);
    if (open.length < 2) continue;
    const shares = movedShares(
      open.map(({ beside }) => beside?.verdict),
      link.movesWeights.least,
    );
    for (const [i, { branch }] of open.entries()) moved.set(branch, element(shares[i]));
  }
  const isMoved = [...moved].some(([id, share]) => weightOf(id) !== share);
  if (!isMoved) return undefined;
  const own = moved.get(everyoneElse);
  return {
    ...link,
    ...(link.branches && {
      branches: link.branches.map((one) => ({ ...one, weight: moved.get(one.id) ?? one.weight })),
    }),
    ...(own !== undefined && { weight: own }),
  };
};
