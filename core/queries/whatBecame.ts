import type { Choice } from '#core/catalogue';
import type { Interval } from '#core/figures';
import { dayIn, dayName, dayNumber } from '#core/hop';
import type { DimensionName } from '#core/traffic';
import { dimensionNames } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import type { PaysFigures } from './whatPays.ts';
import { whatPays } from './whatPays.ts';

/** What became of a decision; money in minor units of the currency in which it was made. */
export interface Became {
  /** Whole days since the one on which it was made. */
  readonly days: number;
  /** Of all sales that the visits before it bring, the share that has usually come by now. */
  readonly complete: number;
  /** What as many visitors a day as came before it would have left since, from worst to best, by what is known of those before it by now. */
  readonly would: Interval | undefined;
  /** What the visits since came to; undefined where none came and nothing was paid. */
  readonly since: Pick<PaysFigures, 'visitors' | 'cost' | 'profit' | 'verdict'> | undefined;
}

const isDimension = (name: string): name is DimensionName => dimensionNames.some((one) => one === name);

/** What became of a decision by now (milliseconds since 1970 UTC); undefined on its own day, and where what was asked is not known here. */
export const whatBecame = (
  data: Dataset,
  { choice, now }: { readonly choice: Choice; readonly now: number },
): Became | undefined => {
  const { by, value, from, day, currency } = choice;
  const where = choice.where.flatMap(({ of, ...rest }) => (isDimension(of) ? [{ of, ...rest }] : []));
  const today = dayIn(data.zone, now);
  const days = dayNumber(today) - dayNumber(day);
  if (days < 1 || !isDimension(by) || where.length < choice.where.length) return undefined;
  const lineOf = (first: string, last: string): PaysFigures | undefined =>
    whatPays(data, { by, where, currency, now, from: first, to: last }).lines.find(
      (line) => line.value === value,
    );
  const to = choice.to < day ? choice.to : day;
  const before = from <= to ? lineOf(from, to) : undefined;
  const aDay = before && before.visitors / (dayNumber(to) - dayNumber(from) + 1);
  const since = lineOf(dayName(dayNumber(day) + 1), today);
  return {
    days,
    complete: before && before.visitors > 0 ? before.ripe / before.visitors : 0,
    would:
      before?.band && aDay !== undefined
        ? { low: before.band.low * aDay * days, high: before.band.high * aDay * days }
        : undefined,
    since: since && {
      visitors: since.visitors,
      cost: since.cost,
      profit: since.profit,
      verdict: since.verdict,
    },
  };
};
