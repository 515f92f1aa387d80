import type { Promotion } from '#core/catalogue';
import { promotionSeparator } from '#core/catalogue';
import { dayIn } from '#core/hop';
import type { Dataset } from './dataset.ts';
import type { Pays, PaysFigures, PaysQuestion } from './whatPays.ts';
import { whatPays } from './whatPays.ts';

/** What of a promotion is asked: its ID, in which currency, and when (milliseconds since 1970 UTC). */
export interface PromotionQuestion extends Pick<PaysQuestion, 'currency' | 'now'> {
  readonly id: string;
}

/** Visits that another promotion has too: each promotion counts them, a sum of several counts them once. */
export interface PromotionOverlap {
  readonly other: string;
  readonly visits: number;
  readonly conversions: number;
}

/** What one promotion came to. Money in minor units of the one currency. */
export interface PromotionFigures {
  readonly id: string;
  /** First and last day of which something is known already. */
  readonly from: string;
  readonly to: string;
  readonly whole: PaysFigures;
  /** Sales of its visits that usually come later, and what they pay at the share that stays; undefined where nobody knows. */
  readonly toCome: { readonly conversions: number; readonly minor: number } | undefined;
}

export interface PromotionPage extends PromotionFigures {
  /** By source, link, page and country, what loses most a week first. */
  readonly parts: Readonly<Record<(typeof partsShown)[number], Pays['lines']>>;
  /** The newest promotion that began before it. */
  readonly before: PromotionFigures | undefined;
  readonly overlaps: readonly PromotionOverlap[];
  /** What of it is in no figure: currencies without a rate. */
  readonly missing: Pays['missing'];
}

const partsShown = ['source', 'link', 'page', 'country'] as const;

const questionOf = (
  { from, until }: Promotion,
  today: string,
  by: PaysQuestion['by'],
  { id, currency, now }: PromotionQuestion,
): PaysQuestion => ({
  ...{ by, from, currency, now },
  to: until !== undefined && until < today ? until : today,
  where: [{ of: 'promotion', values: [id] }],
});

const toComeOf = ({ evidence }: PaysFigures): PromotionFigures['toCome'] => {
  if (!evidence || !(evidence.ripe > 0)) return undefined;
  const conversions = (evidence.conversions * (evidence.visitors - evidence.ripe)) / evidence.ripe;
  return { conversions, minor: conversions * evidence.payout.mean };
};

const figuresOf = ({ id }: Promotion, { from, to }: PaysQuestion, { whole }: Pays): PromotionFigures => ({
  ...{ id, from, to, whole },
  toCome: toComeOf(whole),
});

/** Promotions that have begun by now, the newest first, each with all of its visits. */
export const promotions = (
  data: Dataset,
  { currency, now }: Pick<PromotionQuestion, 'currency' | 'now'>,
): PromotionFigures[] => {
  const today = dayIn(data.zone, now);
  return data.records.promotions
    .filter(({ from }) => from <= today)
    .toSorted((a, b) => (a.from === b.from ? (a.id < b.id ? -1 : 1) : a.from < b.from ? 1 : -1))
    .map((promotion) => {
      const question = questionOf(promotion, today, 'promotion', { id: promotion.id, currency, now });
      return figuresOf(promotion, question, whatPays(data, question));
    });
};

/** All that one promotion came to; undefined where it is not known here, or has not begun. */
export const promotionPage = (data: Dataset, asked: PromotionQuestion): PromotionPage | undefined => {
  const today = dayIn(data.zone, asked.now);
  const all = data.records.promotions;
  const promotion = all.find(({ id }) => id === asked.id);
  if (!promotion || promotion.from > today) return undefined;
  const question = questionOf(promotion, today, 'promotion', asked);
  const pays = whatPays(data, question);
  const shared = new Map<string, { visits: number; conversions: number }>();
  for (const { value, visits, conversions } of pays.lines)
    for (const other of value.split(promotionSeparator)) {
      if (other === promotion.id || other === '') continue;
      const known = shared.get(other) ?? { visits: 0, conversions: 0 };
      shared.set(other, {
        visits: known.visits + visits,
        conversions: known.conversions + conversions,
      });
    }
  const [before] = all
    .filter(({ from }) => from < promotion.from)
    .toSorted((a, b) => (a.from < b.from ? 1 : a.from > b.from ? -1 : a.id < b.id ? -1 : 1));
  const beforeQuestion = before && questionOf(before, today, 'promotion', { ...asked, id: before.id });
  const linesBy = (by: PaysQuestion['by']) => whatPays(data, { ...question, by }).lines;
  return {
    ...figuresOf(promotion, question, pays),
    // Each was just put in.
    parts: Object.fromEntries(partsShown.map((by) => [by, linesBy(by)])) as PromotionPage['parts'],
    before: before && beforeQuestion && figuresOf(before, beforeQuestion, whatPays(data, beforeQuestion)),
    overlaps: [...shared].map(([other, counts]) => ({ other, ...counts })),
    missing: pays.missing,
  };
};
