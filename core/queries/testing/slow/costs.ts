import type { Cost, Promotion, Rate } from '#core/catalogue';
import { dayOf } from './days.ts';
import { slowPromotions } from './promotions.ts';
import type { Request } from './requests.ts';

/** A part of a cost: what it was paid for, on which day, in units of the one currency. */
export interface SlowPart {
  /** The visit it is laid on; undefined where it came to none. */
  readonly hop: Request | undefined;
  readonly cost: Cost;
  readonly day: string;
  readonly units: number;
}

export interface SlowCosts {
  readonly costs: readonly Cost[];
  readonly rates: readonly Rate[];
  readonly promotions: readonly Promotion[];
  readonly to: string;
  readonly zone: string;
  readonly today: string;
  /** Requests by what became of them. */
  readonly outcomes: ReadonlyMap<Request, string>;
}

const daysFrom = (first: string, last: string): string[] => {
  const days: string[] = [];
  for (let at = Date.parse(first); at <= Date.parse(last); at += 86_400_000)
    days.push(new Date(at).toISOString().slice(0, 10));
  return days;
};

/**
 * Lays costs on visits as plainly as can be, with fractions of a cent: each cost asks every request whether it paid for it. It shares
 * nothing with the fast way but types.
 *
 * @returns the parts; those of which no rate is known are no number
 */
export const slowParts = ({ costs, rates, promotions, to, zone, today, outcomes }: SlowCosts): SlowPart[] => {
  const rateOf = (currency: string, day: string): number => {
    if (currency === to) return 1;
    const known = rates.filter((rate) => rate.from === currency && rate.to === to && rate.day <= day);
    known.sort((a, b) => a.day.localeCompare(b.day));
    const last = known.at(-1);
    return last ? Number(last.rate) : NaN;
  };
  return costs.flatMap((cost): SlowPart[] => {
    const { of, per, from, currency } = cost;
    if (per === 'share' || from > today) return [];
    const last = cost.until !== undefined && cost.until < today ? cost.until : today;
    const isIts = (hop: Request, day: string): boolean =>
      of.kind === 'link'
        ? hop.link === of.link
        : of.kind === 'promotion'
          ? slowPromotions(promotions, hop, day).includes(of.promotion)
          : of.kind === 'source' && hop.source === of.source;
    const all = [...outcomes].flatMap(([hop, outcome]) => {
      const day = dayOf(zone, hop.at);
      const isPaid =
        isIts(hop, day) && day >= from && day <= last && !['tests', 'prefetches'].includes(outcome);
      return isPaid ? [{ hop, day, counted: outcome === 'counted' }] : [];
    });
    const visits = all.filter(({ counted }) => counted);
    const amount = Number(cost.amount);
    const spread = (list: typeof all, day: string): SlowPart[] => {
      const units = amount * rateOf(currency, day);
      return list.length === 0
        ? [{ hop: undefined, cost, day, units }]
        : list.map((one) => ({ hop: one.hop, cost, day: one.day, units: units / list.length }));
    };
    if (per === 'all') return spread(visits, from);
    if (per === 'day')
      return daysFrom(from, last).flatMap((day) =>
        spread(
          visits.filter((one) => one.day === day),
          day,
        ),
      );
    return (cost.billsAll ? all : visits).map(({ hop, day }) => ({
      hop,
      cost,
      day,
      units: (amount * rateOf(currency, day)) / (per === 'thousand' ? 1000 : 1),
    }));
  });
};
