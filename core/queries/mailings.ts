import { comesByMail, element } from '#core/catalogue';
import { dayIn, dayName, dayNumber } from '#core/hop';
import type { Condition } from '#core/traffic';
import { countRequests, daysOf, holdsAt } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import { dimensionsOf } from './trafficDimensions.ts';

/** As many days before a day are what is usual; fewer than the least say nothing. */
const [usualDays, leastDays] = [14, 4];
/** A mailing brings at least so many visits in a day, and so many times what is usual. */
const [fewestVisits, timesUsual] = [20, 2];

const middleOf = (list: readonly number[]): number => {
  const sorted = list.toSorted((a, b) => a - b);
  const [low, high] = [Math.floor((sorted.length - 1) / 2), Math.ceil((sorted.length - 1) / 2)];
  return (element(sorted[low]) + element(sorted[high])) / 2;
};

/**
 * Days on which a mailing was sent, as far as its visits tell: days of a source whose channel is mail with at least twice the visits of
 * its usual day, the first of several in a row that are.
 *
 * @param from first and last day, `2026-10-24`
 * @param sourceConditions what the sources that are told must fulfil
 */
export const mailingsOfDays = (
  data: Dataset,
  { from, to }: { readonly from: string; readonly to: string },
  sourceConditions: readonly Pick<Condition, 'values' | 'not'>[] = [],
): { readonly day: string; readonly source: string }[] => {
  const { journal, classification, rolledUp, records, zone } = data;
  const mails = new Set(
    records.sources.flatMap(({ source, channel }) =>
      comesByMail({ channel }) &&
      sourceConditions.every((condition) => holdsAt(condition, data.sourceOf(source)))
        ? [data.sourceOf(source)]
        : [],
    ),
  );
  if (mails.size === 0) return [];
  const { columns } = journal;
  const first = columns.rows > 0 ? dayIn(zone, columns.at(0)) : from;
  const earliest = dayName(dayNumber(from) - usualDays - 1);
  const days = daysOf(zone, earliest < first ? (first < to ? first : to) : earliest, to);
  const of = dimensionsOf(data)('source');
  const where = [{ of, values: [...mails] }];
  const input = { columns, classification, days, rolledUp: rolledUp.counts, where, visitors: false };
  const [bySource] = countRequests(input, [of]).breakdowns;
  return [...(bySource ?? [])].flatMap(([source, counts]) => {
    const isMany = counts.days.map((visits, i) => {
      const before = counts.days.slice(Math.max(0, i - usualDays), i);
      return before.length >= leastDays && visits >= fewestVisits && visits >= timesUsual * middleOf(before);
    });
    return days.names.flatMap((day, i) =>
      isMany[i] === true && isMany[i - 1] !== true && day >= from ? [{ day, source }] : [],
    );
  });
};
