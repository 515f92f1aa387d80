import { element } from '#core/catalogue';
import { payoutOf } from '../payout.ts';
import { rateInterval } from '../rates.ts';
import { priorOf } from '../sequence.ts';
import type { Evidence } from '../verdict.ts';
import { judge } from '../verdict.ts';
import { seeded } from './seeded.ts';

/** Of the sales, so many are reversed. */
const reversedShare = 0.1;

/** One source that is looked at every evening of ninety days, beside others of its program. */
const season = (random: () => number, rate: number, others: number) => {
  const [days, visitorsADay] = [90, 60];
  const [meanDelay, reversedAfter] = [7, 21];
  const spread = 0.8 ** 2;
  const deviation = Math.sqrt(Math.log(1 + spread));
  const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  // Log-normal, 1000 in the mean, with a coefficient of variation of 0.8.
  const amount = () => 1000 * Math.exp(deviation * normal() - deviation ** 2 / 2);
  const sales: {
    readonly at: number;
    readonly isReversed: boolean;
    readonly amount: number;
    readonly isOwn: boolean;
  }[] = [];
  for (let day = 0; day < days; day++)
    for (let i = 0; i < visitorsADay * (1 + others); i++)
      if (random() < rate)
        sales.push({
          at: day + random() - meanDelay * Math.log(1 - random()),
          isReversed: random() < reversedShare,
          amount: amount(),
          isOwn: i < visitorsADay,
        });
  const come = (age: number) => 1 - Math.exp(-age / meanDelay);
  const evenings: Omit<Evidence, 'cost' | 'prior'>[] = [];
  let ripe = 0;
  for (let day = 0; day < days; day++) {
    ripe = 0;
    for (let visit = 0; visit <= day; visit++) ripe += visitorsADay * come(day - visit + 0.5);
    const known = sales.filter(({ at }) => at <= day + 1);
    const stays = known.filter(({ at, isReversed }) => !(isReversed && at + reversedAfter <= day + 1));
    const payout = payoutOf(stays.map((sale) => sale.amount));
    if (!payout) continue;
    const conversions = known
      .filter(({ isOwn }) => isOwn)
      .reduce((sum, { at, isReversed }) => {
        if (at + reversedAfter > day + 1) return sum + 1 - reversedShare;
        return isReversed ? sum : sum + 1;
      }, 0);
    evenings.push({ visitors: visitorsADay * (day + 1), ripe, conversions, payout });
  }
  /** What a visitor really earns. */
  return { evenings, worth: rate * (1 - reversedShare) * 1000 };
};

/** How often, of all runs, a source was called so on any of its ninety evenings; shares of one. */
export interface Called {
  /** One that breaks even, cut or scaled: by the verdict, and by a usual interval of 95 % looked at each evening. */
  evenIsWrong: number;
  evenIsWrongByInterval: number;
  /** One that earns a fifth more than its cost, cut. */
  profitIsCut: number;
  /** One that earns half of its cost, cut; one that earns twice its cost, scaled. */
  lossIsCut: number;
  profitIsScaled: number;
}

/** Whether Wilson's interval of the rate, made for one look, leaves out the rate at which a visitor earns what one costs. */
const intervalDecides = ({ visitors, ripe, conversions, payout, cost }: Omit<Evidence, 'prior'>): boolean => {
  const even = cost / visitors / payout.mean;
  const { low, high } = rateInterval(Math.min(conversions, ripe), ripe);
  return even < low || even > high;
};

/**
 * Lets sources be looked at every evening of ninety days, each with priors that are right, a third and three times of what usually stays.
 *
 * @param rate conversions a visitor
 * @param others how many sources of the same program there are besides, from which it is known what a sale pays
 */
export const calledInRuns = (runs: number, rate: number, others: number): Called[] => {
  const random = seeded(11);
  const priors = [1, 1 / 3, 3].map((times) => priorOf(rate * (1 - reversedShare) * times));
  const found = priors.map((): Called => ({
    evenIsWrong: 0,
    evenIsWrongByInterval: 0,
    profitIsCut: 0,
    lossIsCut: 0,
    profitIsScaled: 0,
  }));
  for (let run = 0; run < runs; run++) {
    const { evenings, worth } = season(random, rate, others);
    const byInterval = evenings.some((evening) =>
      intervalDecides({ ...evening, cost: evening.visitors * worth }),
    );
    for (const [i, prior] of priors.entries()) {
      const of = element(found[i]);
      const verdicts = (costs: number) =>
        new Set(
          evenings.map((evening) => judge({ ...evening, cost: evening.visitors * worth * costs, prior })),
        );
      const even = verdicts(1);
      if (even.has('cut') || even.has('scale')) of.evenIsWrong += 1 / runs;
      if (byInterval) of.evenIsWrongByInterval += 1 / runs;
      if (verdicts(1 / 1.2).has('cut')) of.profitIsCut += 1 / runs;
      if (verdicts(2).has('cut')) of.lossIsCut += 1 / runs;
      if (verdicts(1 / 2).has('scale')) of.profitIsScaled += 1 / runs;
    }
  }
  return found;
};
