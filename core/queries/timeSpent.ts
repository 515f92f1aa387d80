import type { ReadingRecord } from '#core/visits';
import type { DimensionName } from '#core/traffic';
import { daysOf, holdsAt } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import type { TrafficQuestion } from './traffic.ts';

/** For how long pages were in sight. */
export interface Spent {
  readonly views: number;
  /** Seconds in sight, of a view in the mean. */
  readonly seconds: number;
}

/** For how long somebody stayed, as far as pages tell: a redirect cannot know it. */
export interface TimeSpent {
  /** On frames and waiting pages of links; undefined where none told. */
  readonly stayed: Spent | undefined;
  /** On pages with the script; undefined where none told. */
  readonly read:
    | (Spent & {
        /** Views by readers who came through a link of ours, and how many of those scrolled. */
        readonly sent: number;
        readonly scrolled: number;
      })
    | undefined;
}

/** What a record tells of a dimension; undefined where it cannot tell. */
const valueOf = (
  { link, source, page }: ReadingRecord,
  of: DimensionName,
  sourceOf: (name: string) => string,
): string | undefined => {
  switch (of) {
    case 'link':
      return link;
    case 'source':
      return source === undefined ? undefined : sourceOf(source);
    case 'page':
      return link === undefined ? page : undefined;
    case 'destination':
      return link === undefined && source !== undefined ? page : undefined;
    default:
      return undefined;
  }
};

/**
 * For how long visitors stayed where a page can tell. Undefined where the question is narrowed by what no page tells: only by link, source,
 * page and destination it can be answered.
 */
export const timeSpent = (
  data: Dataset,
  { from, to, where }: Pick<TrafficQuestion, 'from' | 'to' | 'where'>,
): TimeSpent | undefined => {
  if (where.some(({ of }) => !['link', 'source', 'page', 'destination'].includes(of))) return undefined;
  const days = daysOf(data.zone, from, to);
  const [first = Infinity, until = -Infinity] = [days.starts[0], days.starts[days.names.length]];
  const stayed = { views: 0, seconds: 0 };
  const read = { views: 0, seconds: 0, sent: 0, scrolled: 0 };
  for (const record of data.journal.readings) {
    const { at, views, seconds, link, scrolled } = record;
    if (at < first || at >= until) continue;
    const isMeant = where.every(({ of, ...condition }) => {
      const value = valueOf(record, of, data.sourceOf);
      return value !== undefined && holdsAt(condition, value);
    });
    if (!isMeant) continue;
    const sums = link === undefined ? read : stayed;
    sums.views += views;
    sums.seconds += seconds;
    if (link !== undefined || scrolled === undefined) continue;
    read.sent += views;
    read.scrolled += scrolled;
  }
  const mean = <S extends Spent>(sums: S): S | undefined =>
    sums.views === 0 ? undefined : { ...sums, seconds: sums.seconds / sums.views };
  return { stayed: mean(stayed), read: mean(read) };
};
