import { calendarDay, dayName } from '#core/hop';
import { VisitColumns, segmentRows } from './columns.ts';
import type { Classification } from './classification.ts';
import type { Outcome } from './classificationRules.ts';

/** Requests of one day that are alike, of which only the number is kept. */
export interface DailyCount {
  readonly link: string;
  readonly source: string;
  /** What became of them, by the rules that held when they were rolled up. */
  readonly outcome: Outcome;
  /** Their day in the person's own zone, and in that of the link's network; `2026-10-24`. */
  readonly day: string;
  readonly theirDay: string;
  readonly count: number;
}

export interface RollUpInput {
  readonly columns: VisitColumns;
  readonly classification: Classification;
  /** Requests before this moment are rolled up; milliseconds since 1970 UTC, a midnight of UTC. */
  readonly before: number;
  /** Rows that stay as they are, such as the clicks of conversions. */
  readonly stays: (row: number) => boolean;
  /** IANA zone of our own days, and of the days of a link's network. */
  readonly zone: string;
  readonly theirZone: (link: string) => string;
}

const keyOf = ({ link, source, outcome, day, theirDay }: Omit<DailyCount, 'count'>): string =>
  `${link}\n${source}\n${outcome}\n${day}\n${theirDay}`;

/** Adds up the counts that are alike. */
export const mergeCounts = (lists: readonly (readonly DailyCount[])[]): DailyCount[] => {
  const found = new Map<string, DailyCount>();
  for (const sum of lists.flat()) {
    const before = found.get(keyOf(sum));
    found.set(keyOf(sum), before ? { ...sum, count: sum.count + before.count } : sum);
  }
  return [...found.values()];
};

/**
 * Rolls old requests up by day. What stays keeps its outcome under any rules: beside the rows that stay, every row of
 * their visitors does, and of visitors who came again since, for only those decide whether a visitor is one again or a
 * machine. Counts and rows together are what there was.
 */
export const rollUp = (
  what: RollUpInput,
): { readonly columns: VisitColumns; readonly counts: readonly DailyCount[] } => {
  const { columns, classification, before, stays, zone, theirZone } = what;
  const visitorOf = (row: number): string => {
    const { visitor } = columns.segmentOf(row);
    const i = (row % segmentRows) * 2;
    return `${visitor[i]} ${visitor[i + 1]}`;
  };
  const known = new Set<string>();
  for (let row = 0; row < columns.rows; row++)
    if (columns.at(row) >= before || stays(row)) known.add(visitorOf(row));

  const remaining = new VisitColumns();
  const counts = new Map<string, { -readonly [K in keyof DailyCount]: DailyCount[K] }>();
  for (let row = 0; row < columns.rows; row++) {
    if (known.has(visitorOf(row))) {
      remaining.add(columns.record(row));
      continue;
    }
    const at = columns.at(row);
    const link = columns.text('link', row);
    const sum = {
      link,
      source: columns.text('source', row),
      outcome: classification.outcome(row),
      day: dayName(calendarDay(zone, at)),
      theirDay: dayName(calendarDay(theirZone(link), at)),
    };
    const same = counts.get(keyOf(sum));
    if (same) same.count += 1;
    else counts.set(keyOf(sum), { ...sum, count: 1 });
  }
  return { columns: remaining, counts: [...counts.values()] };
};
