import { addTo, element, pushTo } from '#core/catalogue';
import { outcomeNumber, segmentRows } from '#core/visits';
import { countedUnits } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';
import { mostLegs, rowsBefore, segmentsSince } from './visits.ts';

/** Where the visitors of a link went on to from the page it leads to. */
export interface Onward {
  /** Counted visits of the link since a moment, and how many of them went on by another link. */
  readonly visits: number;
  readonly wentOn: number;
  /** Of those that went on, in the middle: seconds until they did. */
  readonly seconds: number;
  /** Of those that went on, how many led to a conversion that was not reversed, and in the middle seconds from the press to it. */
  readonly converted: number;
  readonly convertedSeconds: number;
  /** By the link they went on by, the most first: visits that did, each once a link. */
  readonly links: readonly { readonly link: string; readonly visits: number }[];
}

/** Rows of a click and of every click of the same journey, the oldest first. */
export const rowsAround = ({ journal: { columns } }: Dataset, row: number): number[] => {
  const root = rowsBefore(columns, row).at(-1) ?? row;
  // The click itself is among them, however long the journey.
  const found = new Set([root, row]);
  for (const each of found)
    for (const after of columns.rowsAfter(each)) if (found.size < mostLegs) found.add(after);
  return [...found].sort((a, b) => columns.at(a) - columns.at(b) || a - b);
};

const middle = (values: number[]): number => {
  const sorted = values.sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 === 1
    ? element(sorted[half])
    : (element(sorted[half - 1]) + element(sorted[half])) / 2;
};

/**
 * How many visitors of a link went on from the page it leads to, and what came of it: counted visits since `from` (milliseconds since
 * 1970 UTC), and the counted clicks that name them as what led there. Undefined where nobody went on.
 */
export const onward = (data: Dataset, link: string, from: number): Onward | undefined => {
  const { columns } = data.journal;
  const { classification } = data;
  const place = columns.dictionaries.link.find(link);
  const isOfLink = (row: number) =>
    columns.segmentOf(row).link[row % segmentRows] === place &&
    columns.at(row) >= from &&
    classification.outcome(row) === 'counted';
  let visits = 0;
  /** Rows of counted clicks, by the row of the visit that led to them. */
  const after = new Map<number, number[]>();
  segmentsSince(columns, from, (segment, n) => {
    const outcomes = element(classification.outcomes[n]);
    for (let i = 0; i < segment.rows; i++) {
      if (element(segment.at[i]) < from || outcomes[i] !== outcomeNumber.counted) continue;
      if (segment.link[i] === place) visits += 1;
      if (segment.first[i] === 0) continue;
      const row = n * segmentRows + i;
      const before = columns.rowBefore(row);
      if (before < 0 || !isOfLink(before)) continue;
      pushTo(after, before, row);
    }
  });
  if (after.size === 0) return undefined;
  const links = new Map<string, number>();
  const [waited, until]: [number[], number[]] = [[], []];
  const { byRow } = countedUnits(data);
  for (const [before, rows] of after) {
    for (const name of new Set(rows.map((row) => columns.text('link', row)))) addTo(links, name, 1);
    waited.push(Math.min(...rows.map((row) => columns.at(row))) - columns.at(before));
    const times = rows.flatMap((row) =>
      (byRow.get(row) ?? []).flatMap(({ conversion: { refundOnly, status, at } }) =>
        refundOnly || status === 'reversed' ? [] : [at - columns.at(row)],
      ),
    );
    if (times.length > 0) until.push(Math.min(...times));
  }
  return {
    visits,
    wentOn: after.size,
    seconds: middle(waited) / 1000,
    converted: until.length,
    convertedSeconds: until.length === 0 ? 0 : middle(until) / 1000,
    links: [...links]
      .map(([name, count]) => ({ link: name, visits: count }))
      .sort((a, b) => b.visits - a.visits || (a.link < b.link ? -1 : 1)),
  };
};
