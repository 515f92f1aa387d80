import type { Network, Program, Status } from '#core/catalogue';
import type { Conversion, Minor, Reported } from '#core/conversions';
import { currencyOf, priceOf, termsOn } from '#core/conversions';
import { calendarDay, dayName, monthIn } from '#core/hop';
import type { Outcome } from '#core/visits';
import type { Pair } from './join.ts';
import type { ClickIndex, Match } from './match.ts';
import { isUnfilled, matchClick } from './match.ts';

/** What reconciling needs to know of the clicks. */
export interface Clicks extends ClickIndex {
  at(row: number): number;
  link(row: number): string;
  source(row: number): string;
  outcome(row: number): Outcome;
  /** Program its link belongs to; empty where to none. */
  programOf(row: number): string;
  /** Counted clicks on links of a program, or of a whole network, in a stretch of time; at most so many. */
  between(network: string, program: string, from: number, until: number, most: number): number[];
}

/** One side's word on a conversion. */
export interface Side {
  readonly amount: Minor | null;
  readonly currency: string;
  readonly status: Status;
  /** It was not taken back. */
  readonly counts: boolean;
  readonly at: number;
  /** Its month in the network's zone, `2026-10`. */
  readonly month: string;
  /** The postback brought no amount; this is what the program's terms say. */
  readonly priced: boolean;
}

/** Why our figure of a conversion and theirs differ; each has one at most. */
export type Cause =
  | 'no postback'
  | 'sent twice'
  | 'not yet reported'
  | 'not in report'
  | 'reversed'
  | 'currency'
  | 'another month'
  | 'below terms'
  | 'amount'
  | 'set aside';

/** What else is to be said of a conversion. */
export type Flag =
  'before its click' | 'outside the window' | 'click of a bot' | 'click of a test' | 'claimed twice';

/** A conversion as both sides see it: what reconciling counts and settles. */
export interface Unit {
  readonly id: string;
  readonly network: string;
  /** Empty where it is not known. */
  readonly program: string;
  readonly link: string;
  readonly source: string;
  readonly match: Match;
  readonly ours?: Side;
  readonly theirs?: Side;
  readonly conversion?: Conversion;
  readonly reported?: Reported;
  readonly cause?: Cause;
  readonly flags: readonly Flag[];
  /** Another unit that it repeats. */
  readonly repeats?: string;
}

/** A stretch of days that a network's reports cover, both ends included; `2026-10-01`. */
export interface Covered {
  readonly network: string;
  readonly from: string;
  readonly until: string;
}

export interface UnitsInput {
  readonly pairs: readonly Pair[];
  readonly clicks: Clicks;
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly covered: readonly Covered[];
  /** Clicks people chose, by the unit's ID. */
  readonly chosen: ReadonlyMap<string, string>;
}

/** How many days after a click a network credits its sales, where it says nothing else. */
const usualCookieDays = 30;
const noFlags: Flag[] = [];
const hour = 3_600_000;
const day = 24 * hour;
/** Clocks of two machines may be so far apart. */
const clockMs = 120_000;

/** ID of a unit: that of its conversion, or of its row where no postback came. */
export const unitId = ({ ours, theirs }: Pair): string =>
  ours ? ours.id : `row ${theirs?.network ?? ''} ${theirs?.key ?? ''}`;

/** The first conversion of a transaction or of a click. */
interface First {
  readonly row: number;
  readonly event: string;
  readonly at: number;
}

/**
 * The click a pair leads to: by the ID in the postback, else by that in the row, else by the first of its transaction,
 * else the only one that fits.
 */
const matchPair = (
  { ours, theirs }: Pair,
  network: string,
  clicks: Clicks,
  program: string,
  cookieDays: number,
  first: First | undefined,
): Match => {
  const own = ours && matchClick(ours.click || (ours.unfilled ?? ''), network, clicks);
  if (own && own.row >= 0) return own;
  const row = theirs && matchClick(theirs.click, network, clicks);
  if (row && row.row >= 0)
    return ours
      ? {
          ...row,
          level: 'row',
          because: `The report row of ${theirs.txn || 'the same sale'} carries the click ID.`,
        }
      : row;
  const failed = own ??
    row ?? { level: 'unfilled' as const, row: -1, because: 'It came without a click ID.' };
  if (failed.level !== 'unfilled') return failed;
  if (first)
    return {
      level: 'recurring',
      row: first.row,
      because: `It carries no click ID; the ${first.event} of the same transaction on ${dayName(Math.floor(first.at / day))} does.`,
    };
  const at = ours?.at ?? theirs?.at ?? 0;
  const near = clicks.between(network, program, at - cookieDays * day, at, 2);
  const [only] = near;
  return near.length === 1 && only !== undefined
    ? {
        level: 'probable',
        row: only,
        because: `Only one click on this program fits in the ${cookieDays} days before it.`,
      }
    : failed;
};

/** Builds the units of everything both sides say, with their clicks, causes and flags. */
export const makeUnits = (input: UnitsInput): Unit[] => {
  const { pairs, clicks, programs, covered, chosen } = input;
  const networks = new Map(input.networks.map((network) => [network.id, network]));
  const programById = new Map(programs.map((program) => [program.id, program]));
  const programByName = new Map<string, string>();
  for (const program of programs) {
    programByName.set(`${program.network} ${program.name.toLowerCase()}`, program.id);
    if (program.code !== '')
      programByName.set(`${program.network} ${program.code.toLowerCase()}`, program.id);
  }
  const coveredOf = new Map<string, Covered[]>();
  for (const stretch of covered)
    coveredOf.set(stretch.network, [...(coveredOf.get(stretch.network) ?? []), stretch]);

  // Tiers count the conversions of a month, so they are priced in the order in which they happened.
  const ordered = [...pairs].sort(
    (a, b) => (a.ours?.at ?? a.theirs?.at ?? 0) - (b.ours?.at ?? b.theirs?.at ?? 0),
  );
  const nth = new Map<string, number>();
  const units: Unit[] = [];
  /** Which program claims a click, and the clicks that a second one claims too. */
  const claims = new Map<number, string>();
  const contested = new Set<number>();
  /** By network and transaction: the first that has a click. By network and click: the first that was credited in time. */
  const firstOf = new Map<string, First>();
  const credited = new Set<string>();

  for (const pair of ordered) {
    const { ours: conversion, theirs: reported } = pair;
    const id = unitId(pair);
    const networkId = conversion?.network ?? reported?.network ?? '';
    const network = networks.get(networkId);
    const zone = network?.zone ?? 'UTC';
    const cookieDays = network?.cookieDays ?? usualCookieDays;
    const named =
      reported && reported.program !== ''
        ? (programByName.get(`${networkId} ${reported.program.toLowerCase()}`) ?? '')
        : '';
    const txn = conversion?.txn || (reported?.txn ?? '');
    const event = conversion?.event ?? reported?.event ?? '';
    const choice = chosen.get(id);
    const found = choice === undefined ? undefined : clicks.beginningWith(choice);
    const match: Match =
      found?.count === 1
        ? { level: 'chosen', row: found.row(0), because: 'A person chose this click.' }
        : matchPair(pair, networkId, clicks, named, cookieDays, firstOf.get(`${networkId} ${txn}`));
    // A click that is only probable says nothing yet.
    const sure = match.row >= 0 && match.level !== 'probable';
    const link = sure ? clicks.link(match.row) : '';
    const source = sure ? clicks.source(match.row) : '';
    const program = named || (sure ? clicks.programOf(match.row) : '');

    let ours: Side | undefined;
    if (conversion) {
      const month = monthIn(zone, conversion.at);
      let { amount, currency } = conversion;
      let priced = false;
      const of = programById.get(program);
      const doubted = conversion.unsure !== undefined && !conversion.trusted;
      const counts = conversion.status !== 'reversed' && !doubted;
      if (of?.terms) {
        const tier = `${program} ${month}`;
        if (counts) nth.set(tier, (nth.get(tier) ?? 0) + 1);
        const terms = termsOn(of, conversion.event, dayName(calendarDay(zone, conversion.at)));
        if (terms && amount === null) {
          const price = priceOf(terms, nth.get(tier) ?? 1);
          if (price !== undefined) {
            amount = price;
            currency = currencyOf(terms) ?? currency;
            priced = true;
          }
        }
      }
      ours = { amount, currency, status: conversion.status, counts, at: conversion.at, month, priced };
    }
    const theirs: Side | undefined = reported && {
      amount: reported.amount,
      currency: reported.currency,
      status: reported.status,
      counts: reported.status !== 'reversed',
      at: reported.at,
      month: monthIn(zone, reported.at),
      priced: false,
    };
    // What nobody vouches for is no word of the network's.
    const heard = conversion?.unsure === undefined || conversion.trusted ? ours : undefined;
    const cause = causeOf(heard, theirs, zone, coveredOf.get(networkId) ?? []);
    let flags: Flag[] = noFlags;
    if (sure) {
      const clickAt = clicks.at(match.row);
      // A row of a report may know its day only; then the whole of it counts.
      const at = conversion?.at ?? (reported?.at ?? 0) + day;
      flags = [];
      if (at < clickAt - clockMs) flags.push('before its click');
      const happened = conversion?.at ?? reported?.at ?? 0;
      const click = `${networkId} ${match.row}`;
      const before = txn === '' ? undefined : firstOf.get(`${networkId} ${txn}`);
      if (txn !== '' && !before) firstOf.set(`${networkId} ${txn}`, { row: match.row, event, at: happened });
      // What recurs is credited by its first.
      const recurs = before?.row === match.row || network?.postback.recurs?.includes(event) === true;
      if (happened <= clickAt + cookieDays * day) credited.add(click);
      else if (!recurs || !credited.has(click)) flags.push('outside the window');
      const outcome = clicks.outcome(match.row);
      if (outcome === 'bot') flags.push('click of a bot');
      if (outcome === 'test') flags.push('click of a test');
      const claimant = `${networkId} ${named || clicks.programOf(match.row)}`;
      const other = claims.get(match.row);
      if (other === undefined) claims.set(match.row, claimant);
      else if (other !== claimant) contested.add(match.row);
    }
    const unit: { -readonly [K in keyof Unit]: Unit[K] } = {
      id,
      network: networkId,
      program,
      link,
      source,
      match,
      flags,
    };
    if (ours) unit.ours = ours;
    if (theirs) unit.theirs = theirs;
    if (conversion) unit.conversion = conversion;
    if (reported) unit.reported = reported;
    if (cause) unit.cause = cause;
    units.push(unit);
  }
  const marked =
    contested.size === 0
      ? units
      : units.map((unit): Unit =>
          contested.has(unit.match.row) ? { ...unit, flags: [...unit.flags, 'claimed twice'] } : unit,
        );
  return findRepeats(marked);
};

const causeOf = (
  ours: Side | undefined,
  theirs: Side | undefined,
  zone: string,
  covered: readonly Covered[],
): Cause | undefined => {
  if (!ours) return theirs ? 'no postback' : undefined;
  if (!theirs) {
    const on = dayName(calendarDay(zone, ours.at));
    return covered.some(({ from, until }) => from <= on && on <= until)
      ? 'not in report'
      : 'not yet reported';
  }
  if (ours.counts !== theirs.counts) return 'reversed';
  if (ours.amount !== null && theirs.amount !== null && ours.currency !== theirs.currency) return 'currency';
  if (ours.month !== theirs.month) return 'another month';
  // Taken back on both sides, it is worth nothing on either.
  if (!ours.counts || ours.amount === theirs.amount) return undefined;
  return ours.priced && (theirs.amount ?? 0) < (ours.amount ?? 0) ? 'below terms' : 'amount';
};

/**
 * Finds postbacks that fired twice for one conversion: one without a transaction, of the same click, event and amount as
 * another with one, within an hour. The ledger cannot know them for the same, since their identities differ.
 */
const findRepeats = (units: readonly Unit[]): Unit[] => {
  const firm = new Map<string, Unit[]>();
  const keyOf = ({ network, conversion }: Unit) =>
    `${network} ${conversion?.click.trim().toUpperCase() ?? ''} ${conversion?.event ?? ''}`;
  for (const unit of units)
    if (unit.conversion && unit.conversion.txn !== '' && !isUnfilled(unit.conversion.click)) {
      const key = keyOf(unit);
      firm.set(key, [...(firm.get(key) ?? []), unit]);
    }
  return units.map((unit): Unit => {
    const { conversion, reported } = unit;
    if (!conversion || conversion.txn !== '' || reported) return unit;
    const twin = firm
      .get(keyOf(unit))
      ?.find(
        (other) =>
          Math.abs((other.conversion?.at ?? 0) - conversion.at) <= hour &&
          (other.conversion?.amount === conversion.amount || conversion.amount === null),
      );
    return twin ? { ...unit, cause: 'sent twice', repeats: twin.id } : unit;
  });
};
