import { element } from '#core/catalogue';
import type { LaidCosts } from '#core/costs';
import { momentOf } from '#core/hop';
import type { Condition, Days, Dimension } from '#core/traffic';
import { holding, holdOfLink } from '#core/traffic';
import { outcomeNumber } from '#core/visits';
import type { Dataset } from './dataset.ts';
import type { Usual } from './usual.ts';

/** What is added up of one value. */
export interface Sums {
  ripe: number;
  /** Visits by the program they went to. */
  readonly programs: Map<string, number>;
  parts: number;
  /** Each conversion counted for the chance that it stays. */
  stays: number;
  conversions: number;
  reversed: number;
  approved: number;
  pending: number;
  worth: number;
  /** Part of it is in a currency of which no rate is known. */
  unpriced: boolean;
  /** Last day of a sum that was paid for visits still to come; empty where none was. */
  paidUntil: string;
}
/** Nothing yet. */
export const noSums = (): Sums => ({
  ripe: 0,
  programs: new Map(),
  parts: 0,
  stays: 0,
  conversions: 0,
  reversed: 0,
  approved: 0,
  pending: 0,
  worth: 0,
  unpriced: false,
  paidUntil: '',
});

export interface SumInput {
  readonly data: Dataset;
  readonly days: Days;
  readonly where: readonly Condition[];
  readonly of: Dimension;
  readonly program: Dimension;
  readonly laid: LaidCosts;
  readonly usual: (program: string) => Usual;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

/** What visits of a period leave by a dimension: laid costs, ripe visits, and where they went, in one pass over their rows. */
export const sumRows = ({
  data,
  days,
  where,
  of,
  program,
  laid,
  usual,
  now,
}: SumInput): Map<string, Sums> => {
  const { starts, names } = days;
  const { columns } = data.journal;
  const { outcomes } = data.classification;
  const [from, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const holds = where.map(holding);
  const values = of.values.length;
  const programs = program.values.length;
  const ripe = new Float64Array(values);
  const parts = new Float64Array(values);
  const visits = new Float64Array(values * programs);
  const hourMs = 3_600_000;
  const hours = Math.max(1, Math.ceil((now - from) / hourMs) + 1);
  // By program and age in hours: a visit counts for the share that has come by its age, in the middle of its hour.
  const shares = program.values.map((name) => {
    const { complete } = usual(name);
    return Float64Array.from({ length: hours }, (_, hour) => complete((hour + 0.5) * hourMs));
  });
  for (const [n, segment] of columns.segments.entries()) {
    if ((columns.newest[n] ?? -Infinity) < from) continue;
    const found = element(outcomes[n]);
    const filters = where.map((condition, i) => ({
      column: condition.of.column(segment),
      holds: element(holds[i]),
    }));
    const column = of.column(segment);
    const toProgram = program.column(segment);
    const costs = laid.rows[n];
    rows: for (let i = 0; i < segment.rows; i++) {
      const at = element(segment.at[i]);
      if (at < from || at >= until) continue;
      for (const filter of filters) if (filter.holds[element(filter.column[i])] === 0) continue rows;
      const code = element(of.codes[element(column[i])]);
      if (costs) parts[code] = element(parts[code]) + element(costs[i]);
      if (found[i] !== outcomeNumber.counted) continue;
      const place = element(program.codes[element(toProgram[i])]);
      const cell = code * programs + place;
      visits[cell] = element(visits[cell]) + 1;
      const hour = Math.floor((now - at) / hourMs);
      if (hour >= 0) ripe[code] = element(ripe[code]) + element(element(shares[place])[hour]);
    }
  }
  const sums = new Map<string, Sums>();
  for (const [code, value] of of.values.entries()) {
    const went = program.values.flatMap((name, i): [string, number][] => {
      const count = element(visits[code * programs + i]);
      return count > 0 ? [[name, count]] : [];
    });
    if (went.length === 0 && parts[code] === 0) continue;
    sums.set(value, {
      ...noSums(),
      ripe: element(ripe[code]),
      parts: element(parts[code]),
      programs: new Map(went),
    });
  }
  const isIn = new Set(names);
  for (const [i, { link, source, day, outcome, count }] of data.rolledUp.counts.entries()) {
    if (!isIn.has(day) || !holdOfLink(where, link, source, day)) continue;
    const value = of.ofLink(link, source, day);
    const known = sums.get(value) ?? noSums();
    sums.set(value, known);
    known.parts += element(laid.rolledUp[i]);
    if (outcome !== 'counted') continue;
    const to = program.ofLink(link, source, day);
    known.programs.set(to, (known.programs.get(to) ?? 0) + count);
    known.ripe += count * usual(to).complete(Math.max(0, now - momentOf(data.zone, `${day}T12:00`)));
  }
  return sums;
};

/** Both together. */
export const addSums = (one: Sums, other: Sums): Sums => {
  const programs = new Map(one.programs);
  for (const [name, visits] of other.programs) programs.set(name, (programs.get(name) ?? 0) + visits);
  return {
    programs,
    ripe: one.ripe + other.ripe,
    parts: one.parts + other.parts,
    stays: one.stays + other.stays,
    conversions: one.conversions + other.conversions,
    reversed: one.reversed + other.reversed,
    approved: one.approved + other.approved,
    pending: one.pending + other.pending,
    worth: one.worth + other.worth,
    unpriced: one.unpriced || other.unpriced,
    paidUntil: one.paidUntil > other.paidUntil ? one.paidUntil : other.paidUntil,
  };
};
