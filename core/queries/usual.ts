import type { Program } from '#core/catalogue';
import { element, pushTo } from '#core/catalogue';
import type { CostRates, MissingRate } from '#core/costs';
import { partsPerUnit } from '#core/costs';
import type { Approval, Payout, Waited } from '#core/figures';
import { approvalOf, completeness, payoutOf } from '#core/figures';
import { dayIn, momentOf } from '#core/hop';
import type { Dimension } from '#core/traffic';
import { exponentOf, writeAmount } from '#core/values';
import { outcomeNumber, segmentRows } from '#core/visits';
import type { CountedUnit } from './countedUnits.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;

/** Of fewer conversions nobody knows when they come, or what becomes of them: all programs together tell it. */
const fewestKnown = 5;

/** For how long conversions are waited for where none has come yet: networks credit a click for thirty days (common practice). */
const unknownWaitMs = 30 * dayMs;

/** What is usual of a program's conversions, from all that ever came of it. */
export interface Usual {
  /** The share of conversions that have come by an age of the click, in milliseconds. */
  readonly complete: (ageMs: number) => number;
  /** What one pays, in minor units of the one currency; undefined where too few came. */
  readonly payout: Payout | undefined;
  /** The share of pending ones that become approved; undefined where none is old enough to know. */
  readonly approval: Approval | undefined;
  /** Conversions a visit, each visit counted for the share that has come by its age; undefined without a visit. */
  readonly rate: number | undefined;
  /** Sales came, and of none a rate is known, so that nobody can say what one pays: the rate that is missing for the first of them. */
  readonly unpriced: MissingRate | undefined;
  /** False where it is that of all programs, as the program's own conversions are too few. */
  readonly own: boolean;
}

/** A conversion as figures of money see it. */
export interface PaidUnit {
  readonly unit: CountedUnit;
  readonly program: string;
  /** When its click came; of one without a click, when it happened itself. */
  readonly clickAt: number;
  /** Minor units of the one currency with their fraction, nought where it never had an amount; undefined where no rate is known. */
  readonly minor: number | undefined;
}

/** Minor units of a currency in another by the rates of a day, with their fraction. */
const minorIn = (rates: CostRates, minor: number, currency: string, day: string): number | undefined => {
  if (currency === rates.to) return minor;
  const parts = rates.parts(writeAmount(Math.abs(minor), currency), currency, day);
  return parts === undefined
    ? undefined
    : (Math.sign(minor) * parts * 10 ** exponentOf(rates.to)) / partsPerUnit;
};

/** Every conversion that counts, with its worth in one currency by the rate of its click's day. */
export const paidUnits = (data: Dataset, rates: CostRates): PaidUnit[] => {
  const { columns } = data.journal;
  const programs = new Map(data.records.links.map(({ id, program = '' }) => [id, program]));
  return [...countedUnits(data).byLink.values()].flat().map((unit) => {
    const { amount, currency, at } = pricedConversion(unit);
    const clickAt = unit.match.row < 0 ? at : columns.at(unit.match.row);
    return {
      unit,
      program: unit.program === '' ? (programs.get(unit.link) ?? '') : unit.program,
      clickAt,
      minor: amount === null ? 0 : minorIn(rates, amount, currency, dayIn(data.zone, clickAt)),
    };
  });
};

/** How many counted visits of each program have each age in whole hours. */
const agesOf = (data: Dataset, program: Dimension, now: number): Map<string, Float64Array> => {
  const { columns } = data.journal;
  const { outcomes } = data.classification;
  const oldest = columns.segments.reduce(
    (least, { at, rows }) => at.subarray(0, rows).reduce((a, b) => Math.min(a, b), least),
    Math.min(now, data.rolledUp.counts.length > 0 ? data.rolledUp.before - 1100 * dayMs : now),
  );
  const hours = Math.max(1, Math.ceil((now - oldest) / hourMs) + 1);
  const byCode = program.values.map(() => new Float64Array(hours));
  for (const [n, segment] of columns.segments.entries()) {
    const found = element(outcomes[n]);
    const column = program.column(segment);
    for (let i = 0; i < segment.rows; i++) {
      if (found[i] !== outcomeNumber.counted) continue;
      const age = Math.floor((now - element(segment.at[i])) / hourMs);
      if (age < 0) continue;
      const ages = element(byCode[element(program.codes[element(column[i])])]);
      ages[age] = element(ages[age]) + 1;
    }
  }
  const ages = new Map(program.values.map((value, i) => [value, element(byCode[i])]));
  for (const { link, source, day, outcome, count } of data.rolledUp.counts) {
    if (outcome !== 'counted') continue;
    const value = program.ofLink(link, source, day);
    let list = ages.get(value);
    if (!list) ages.set(value, (list = new Float64Array(hours)));
    const age = Math.min(hours - 1, Math.floor((now - momentOf(data.zone, `${day}T12:00`)) / hourMs));
    if (age >= 0) list[age] = element(list[age]) + count;
  }
  return ages;
};

/** Clicks that led to something, and those that have not yet. */
const waitsOf = (
  data: Dataset,
  units: readonly PaidUnit[],
  ages: readonly Float64Array[],
  now: number,
): Waited[] => {
  const { columns } = data.journal;
  // Of several conversions of a click the first is what was waited for.
  const first = new Map<number, number>();
  for (const { unit, clickAt } of units) {
    const { row } = unit.match;
    if (row < 0 || unit.conversion.refundOnly) continue;
    const ms = Math.max(0, unit.conversion.at - clickAt);
    first.set(row, Math.min(first.get(row) ?? Infinity, ms));
  }
  const left = new Map<number, number>();
  for (const list of ages)
    for (const [age, count] of list.entries()) if (count > 0) left.set(age, (left.get(age) ?? 0) + count);
  for (const row of first.keys()) {
    const segment = columns.segmentOf(row);
    const age = Math.floor((now - element(segment.at[row % segmentRows])) / hourMs);
    const still = left.get(age) ?? 0;
    if (still > 0) left.set(age, still - 1);
  }
  return [
    ...[...first.values()].map((ms) => ({ ms, came: true })),
    ...[...left].flatMap(([age, count]) => (count > 0 ? [{ ms: age * hourMs, came: false, count }] : [])),
  ];
};

/** What a program pays by its terms, where these fix one amount for every conversion, and no conversion had another. */
const fixedPayout = (
  terms: NonNullable<Program['terms']>,
  units: readonly PaidUnit[],
  rates: CostRates,
  today: string,
): Payout | undefined => {
  const newest = terms.filter(({ from }) => from <= today).toSorted((a, b) => (a.from < b.from ? 1 : -1))[0];
  if (newest?.kind !== 'fixed' || newest.event !== '' || !(newest.amount > 0)) return undefined;
  const isSame = units.every(({ unit }) => {
    const { amount, currency } = pricedConversion(unit);
    return amount === null || (amount === newest.amount && currency === newest.currency);
  });
  const mean = isSame ? minorIn(rates, newest.amount, newest.currency, today) : undefined;
  return mean === undefined ? undefined : { mean, spread: 0, sales: Infinity };
};

/** The currency of the oldest of some conversions without a rate, and its day; undefined without one. */
const firstMissing = ({ zone }: Dataset, units: readonly PaidUnit[]): MissingRate | undefined => {
  const [first] = units.toSorted((a, b) => a.clickAt - b.clickAt);
  return first && { currency: pricedConversion(first.unit).currency, day: dayIn(zone, first.clickAt) };
};

/** What is usual of every program, and of all of them together for those of which too little is known. */
export const usualOf = (
  data: Dataset,
  units: readonly PaidUnit[],
  program: Dimension,
  rates: CostRates,
  now: number,
): { readonly of: (program: string) => Usual; readonly all: Usual } => {
  const ages = agesOf(data, program, now);
  const today = dayIn(data.zone, now);
  const byProgram = new Map<string, PaidUnit[]>();
  for (const one of units) pushTo(byProgram, one.program, one);
  const usual = (
    own: readonly PaidUnit[],
    hours: readonly Float64Array[],
    terms: NonNullable<Program['terms']>,
  ): Usual => {
    const real = own.filter(({ unit }) => !unit.conversion.refundOnly);
    const waits = waitsOf(data, real, hours, now);
    const complete = completeness(waits) ?? ((ms: number) => Math.min(1, Math.max(0, ms) / unknownWaitMs));
    let ripe = 0;
    for (const list of hours)
      for (const [age, count] of list.entries())
        if (count > 0) ripe += count * complete((age + 0.5) * hourMs);
    const paid = real.flatMap(({ unit: { conversion }, minor }) =>
      conversion.status === 'reversed' || minor === undefined || minor <= 0 ? [] : [minor],
    );
    return {
      complete,
      payout: fixedPayout(terms, own, rates, today) ?? payoutOf(paid),
      approval: approvalOf(
        real.map(({ unit: { conversion } }) => {
          const { status, at, steps } = conversion;
          const decided =
            status === 'pending' ? now : (steps.find((step) => step.status !== 'pending')?.at ?? at);
          return { status, ms: Math.max(0, decided - at), ageMs: Math.max(0, now - at) };
        }),
      ),
      rate: ripe > 0 ? real.length / ripe : undefined,
      unpriced: real.every(({ minor }) => minor === undefined) ? firstMissing(data, real) : undefined,
      own: true,
    };
  };
  const all = usual(units, [...ages.values()], []);
  const made = new Map<string, Usual>();
  const of = (name: string): Usual => {
    let known = made.get(name);
    if (!known) {
      const own = byProgram.get(name) ?? [];
      const hours = ages.get(name);
      const terms = data.records.programs.find(({ id }) => id === name)?.terms ?? [];
      const mine = usual(own, hours ? [hours] : [], terms);
      const isKnown = own.filter(({ unit }) => !unit.conversion.refundOnly).length >= fewestKnown;
      known = isKnown
        ? { ...mine, approval: mine.approval ?? all.approval, payout: mine.payout ?? all.payout }
        : {
            ...all,
            payout: mine.payout?.sales === Infinity ? mine.payout : all.payout,
            unpriced: mine.unpriced,
            own: false,
          };
      made.set(name, known);
    }
    return known;
  };
  return { of, all };
};
