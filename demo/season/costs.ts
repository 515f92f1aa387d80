import type { Cost, Rate } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import { dayName, dayNumber } from '#core/hop';

const oneDay = 86_400_000;

/** What was paid for a source, and what it truly is: every visitor of Nightledge is worth about as much, whoever sent them. */
export interface PaidSource {
  readonly source: string;
  /** It earns at least twice its cost, costs at least twice what it earns, costs about a fifth more, or neither. */
  readonly truth: 'earns' | 'loses' | 'loses a little' | 'breaks even';
}

interface Paid extends PaidSource, Pick<Cost, 'per' | 'currency' | 'note'> {
  /** For 60,000 requests; sums and days cost less where fewer come, as their visitors are then fewer. */
  readonly amount: number;
  /** The day on which a sum was paid, as a share of all days. */
  readonly on?: number;
}

/** What Nightledge pays for; the first mailing's cost is passed along with its clicks instead. */
const paid: readonly Paid[] = [
  { source: 'newsletter', truth: 'earns', per: 'day', amount: 1.6, currency: 'EUR', note: 'Sending it' },
  { source: 'saturn-guide', truth: 'earns', per: 'day', amount: 4, currency: 'EUR', note: 'Its writer' },
  { source: 'forum', truth: 'earns', per: 'click', amount: 0.07, currency: 'USD', note: 'Posts of a club' },
  { source: 'video-12', truth: 'breaks even', per: 'day', amount: 8.7, currency: 'EUR', note: 'Filming' },
  {
    source: 'podcast',
    truth: 'loses',
    per: 'day',
    amount: 8,
    currency: 'EUR',
    note: 'A word in each episode',
  },
  { source: 'flyer', truth: 'loses', per: 'all', amount: 140, currency: 'GBP', note: 'Printing', on: 0.63 },
  { source: 'bought-b', truth: 'loses', per: 'all', amount: 180, currency: 'EUR', note: 'Mailing', on: 0.72 },
];

/** What was paid in a season, the rates Nightledge goes by, and what every paid source truly is. */
export const costsOf = (
  end: number,
  days: number,
  requests: number,
): { readonly costs: Cost[]; readonly rates: Rate[]; readonly pays: PaidSource[] } => {
  const first = dayNumber(new Date(end - days * oneDay).toISOString().slice(0, 10));
  const costs = paid.map(({ source, per, amount, currency, note, on }): Cost => {
    const day = on === undefined ? undefined : dayName(first + Math.floor(days * on));
    return {
      id: sameId('cst', source),
      of: { kind: 'source', source },
      ...{ per, currency, note },
      amount: per === 'click' ? String(amount) : Math.max(0.01, (amount * requests) / 60_000).toFixed(2),
      from: day ?? dayName(first),
      ...(day !== undefined && { until: day }),
    };
  });
  const rate = (from: string, text: string): Rate => ({
    id: sameId('rat', from),
    ...{ from, to: 'EUR', day: dayName(first - 30), rate: text, source: 'The bank of the club' },
  });
  return {
    costs,
    rates: [rate('USD', '0.86'), rate('GBP', '1.14'), rate('JPY', '0.0055')],
    pays: [
      ...paid.map(({ source, truth }) => ({ source, truth })),
      { source: 'bought-a', truth: 'loses a little' },
    ],
  };
};
