import type { Cost, Promotion, Rate } from '#core/catalogue';
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
  { source: 'bought-b', truth: 'loses', per: 'all', amount: 360, currency: 'EUR', note: 'Mailing', on: 0.72 },
];

/** An effort of Nightledge, and what it truly is once all of its sales are in. */
export interface TruePromotion extends Pick<PaidSource, 'truth'> {
  readonly promotion: string;
}

/** Names, what each takes, its first and last day as shares of all days, and what it is. The last two share visits. */
const efforts: readonly (Pick<Promotion, 'id' | 'name' | 'takes' | 'note'> & {
  readonly days: readonly [from: number, until: number];
  readonly truth: PaidSource['truth'];
})[] = [
  {
    id: 'prm_firstmailing',
    name: 'First mailing',
    takes: [{ kind: 'source', source: 'bought-a' }],
    days: [0.3, 0.37],
    truth: 'loses a little',
    note: 'To try whether bought addresses pay',
  },
  {
    id: 'prm_starnights',
    name: 'Star nights',
    takes: [
      { kind: 'sources', begins: 'news' },
      { kind: 'link', link: 'lnk_saturnkit' },
    ],
    days: [0.6, 0.8],
    truth: 'earns',
    note: 'Letters and the kit, until the moon is full',
  },
  {
    id: 'prm_secondmailing',
    name: 'Second mailing',
    takes: [{ kind: 'sources', begins: 'bought-b' }],
    days: [0.72, 0.79],
    truth: 'loses',
    note: 'Twice the addresses of the first',
  },
];

/** What was paid in a season, its efforts, the rates Nightledge goes by, and what every paid source truly is. */
export const costsOf = (
  end: number,
  days: number,
  requests: number,
): {
  readonly costs: Cost[];
  readonly rates: Rate[];
  readonly promotions: Promotion[];
  readonly pays: PaidSource[];
  readonly efforts: TruePromotion[];
} => {
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
  const promotions = efforts.map(({ id, name, takes, note, days: [from, until] }) => ({
    ...{ id, name, takes, note },
    from: dayName(first + Math.floor(days * from)),
    until: dayName(first + Math.floor(days * until)),
  }));
  const rate = (from: string, text: string): Rate => ({
    id: sameId('rat', from),
    ...{ from, to: 'EUR', day: dayName(first - 30), rate: text, source: 'The bank of the club' },
  });
  return {
    ...{ costs, promotions },
    efforts: efforts.map(({ id, truth }) => ({ promotion: id, truth })),
    rates: [rate('USD', '0.86'), rate('GBP', '1.14'), rate('JPY', '0.0055')],
    pays: [
      ...paid.map(({ source, truth }) => ({ source, truth })),
      { source: 'bought-a', truth: 'loses a little' },
    ],
  };
};
