import type { ClickRow } from '#core/catalogue';
import { addTo, element, pushTo } from '#core/catalogue';
import { calendarDay, dayName, dayNumber } from '#core/hop';
import type { VisitColumns, Classification, DailyCount, LostRecord, TraceRecord } from '#core/visits';
import { outcomes, segmentRows } from '#core/visits';
import { isApart } from './clickCases.ts';

/** What stands between our requests and the clicks they count. */
export const clickCauses = [
  'tests',
  'prefetches',
  'bots',
  'not redirected',
  'not written',
  'repeats',
  'day boundary, ours',
  'day boundary, theirs',
  'traces',
  'not yet reported',
  'written off',
] as const;
export type ClickCause = (typeof clickCauses)[number];

const byOutcome: Readonly<Record<(typeof outcomes)[number], ClickCause | undefined>> = {
  test: 'tests',
  prefetch: 'prefetches',
  bot: 'bots',
  'not redirected': 'not redirected',
  repeat: 'repeats',
  counted: undefined,
};

/** Ours and theirs on one day of the network. */
export interface ClickDay {
  /** In the network's zone, `2026-10-24`. */
  readonly day: string;
  /** Counted by us on that day, traces included. */
  readonly comparable: number;
  readonly theirs: number;
}

/** Clicks of one network over a month: requests, what does not compare, and what is unexplained. */
export interface ClickBridge {
  /** Requests for its links on the days of our own zone. */
  readonly ours: number;
  readonly theirs: number;
  readonly pieces: readonly {
    readonly cause: ClickCause;
    readonly value: number;
    /** The journal's `seq` of each record it is made of. */
    readonly records: Uint32Array;
    /** How many more it is made of, of days of which only the roll-up is kept. */
    readonly rolledUp: number;
  }[];
  readonly unexplained: number;
  readonly days: readonly ClickDay[];
  /** False where no report of clicks covers any of it: then theirs is not 0 but unknown. */
  readonly reported: boolean;
}

export interface ClickBridgeInput {
  readonly columns: VisitColumns;
  readonly classification: Classification;
  /** Requests of which only the daily roll-up is kept. */
  readonly rolledUp?: readonly DailyCount[];
  readonly traces: readonly TraceRecord[];
  /** Requests that were answered and not written down; whether they would have counted nobody can tell. */
  readonly lost?: readonly Pick<LostRecord, 'at' | 'links'>[];
  /** The network's clicks by day, as its reports state them. */
  readonly reported: Iterable<ClickRow>;
  /** Links that count: of the network, and of the program, link or source asked for. */
  readonly isLink: (link: string) => boolean;
  readonly isSource: (source: string) => boolean;
  readonly isLabel: (label: string) => boolean;
  /** Zone of our own days, and of theirs. */
  readonly zone: string;
  readonly theirZone: string;
  /** `2026-10`; all that both sides have where it is left out. */
  readonly month?: string | undefined;
}

/** Days since 1970 of the first day of a month and of the next. */
const daysOf = (month: string): [number, number] => {
  const [year = 0, number = 1] = month.split('-').map(Number);
  return [
    dayNumber(`${month}-01`),
    dayNumber(new Date(Date.UTC(year, number, 1)).toISOString().slice(0, 10)),
  ];
};

/**
 * Explains the difference of clicks: requests − tests − prefetches − bots − not redirected − not written − repeats ± day boundary + traces,
 * compared with theirs. Every request is in one piece at most. One pass over the columns.
 */
export const bridgeClicks = (input: ClickBridgeInput): ClickBridge => {
  const { columns, classification, isLink, isSource, zone, theirZone, month } = input;
  const theirs = new Map<number, number>();
  /** Days on which their report says anything, whatever the label; and the first and last of the labels asked for. */
  const told = new Set<number>();
  let firstReported = Infinity;
  let lastReported = -Infinity;
  for (const row of input.reported) {
    const day = dayNumber(row.day);
    told.add(day);
    if (input.isLabel(row.label)) {
      firstReported = Math.min(firstReported, day);
      lastReported = Math.max(lastReported, day);
    }
    if (input.isLabel(row.label) && (month === undefined || row.day.startsWith(month)))
      addTo(theirs, dayNumber(row.day), row.clicks);
  }
  const known = [...theirs.keys()];
  const [from, until] =
    month === undefined
      ? [Math.min(...known), known.length === 0 ? -Infinity : Math.max(...known) + 1]
      : daysOf(month);
  const within = (day: number) => day >= from && day < until;
  const isReported = (day: number) => day >= firstReported && day <= lastReported && told.has(day);

  const wanted = columns.dictionaries.link.texts.map(isLink);
  const wantedSource = columns.dictionaries.source.texts.map(isSource);
  const records = new Map<ClickCause, number[]>();
  const rolledUp = new Map<ClickCause, number>();
  const comparable = new Map<number, number>();
  let ours = 0;
  /** Counts requests by what became of them and by our day and theirs; puts them in their piece, if they are in one. */
  const count = (
    times: number,
    cause: ClickCause | undefined,
    day: number,
    theirDay: number,
    put: (cause: ClickCause) => void,
  ) => {
    const our = within(day);
    const their = within(theirDay);
    if (our) ours += times;
    if (cause !== undefined) {
      if (our) put(cause);
    } else if (their && !isReported(theirDay)) {
      if (our) put('not yet reported');
    } else {
      if (their) addTo(comparable, theirDay, times);
      if (our && !their) put('day boundary, ours');
      else if (their && !our) put('day boundary, theirs');
    }
  };
  for (const daily of input.rolledUp ?? [])
    if (isLink(daily.link) && isSource(daily.source))
      count(daily.count, byOutcome[daily.outcome], dayNumber(daily.day), dayNumber(daily.theirDay), (cause) =>
        addTo(rolledUp, cause, daily.count),
      );
  for (const { at, links } of input.lost ?? [])
    for (const [link, times] of Object.entries(links))
      // Their sources are not told, so they are no part of what one source sent.
      if (isLink(link) && isSource(''))
        count(times, 'not written', calendarDay(zone, at), calendarDay(theirZone, at), (cause) =>
          addTo(rolledUp, cause, times),
        );
  for (const [n, segment] of columns.segments.entries()) {
    const found = element(classification.outcomes[n]);
    for (let i = 0; i < segment.rows; i++) {
      if (!wanted[element(segment.link[i])] || !wantedSource[element(segment.source[i])]) continue;
      const at = element(segment.at[i]);
      const day = calendarDay(zone, at);
      const theirDay = calendarDay(theirZone, at);
      if (!within(day) && !within(theirDay)) continue;
      const seq = element(segment.seq[i]);
      count(1, byOutcome[element(outcomes[element(found[i])])], day, theirDay, (cause) =>
        pushTo(records, cause, seq),
      );
    }
  }
  for (const { seq, at, by, link } of input.traces) {
    const day = calendarDay(theirZone, at);
    // The nightly check asks the shop alone, so no network takes it for a click.
    if (by !== 'person' || !isLink(link) || !within(day)) continue;
    pushTo(records, 'traces', seq);
    addTo(comparable, day);
  }
  const adds: ReadonlySet<ClickCause> = new Set(['day boundary, theirs', 'traces']);
  const pieces: ClickBridge['pieces'][number][] = clickCauses.flatMap((cause) => {
    const list = records.get(cause) ?? [];
    const more = rolledUp.get(cause) ?? 0;
    const value = adds.has(cause) ? list.length + more : -list.length - more;
    return value === 0 ? [] : [{ cause, value, records: Uint32Array.from(list), rolledUp: more }];
  });
  const total = [...theirs.values()].reduce((sum, count) => sum + count, 0);
  return {
    ours,
    theirs: total,
    pieces,
    unexplained: total - ours - pieces.reduce((sum, piece) => sum + piece.value, 0),
    days: [...new Set([...comparable.keys(), ...theirs.keys()])]
      .sort((a, b) => a - b)
      .map((day) => ({
        day: dayName(day),
        comparable: comparable.get(day) ?? 0,
        theirs: theirs.get(day) ?? 0,
      })),
    reported: theirs.size > 0,
  };
};

/**
 * The same where a person wrote off what differs on some days.
 *
 * @param writtenOff what of the difference of a day, by the day in the network's zone
 * @param month what is looked at, `2026-10`
 */
export const withWrittenOff = (
  bridge: ClickBridge,
  writtenOff: ReadonlyMap<string, number>,
  month?: string,
): ClickBridge => {
  const values = [...writtenOff].flatMap(([day, value]) =>
    value !== 0 && (month === undefined || day.startsWith(month)) ? [value] : [],
  );
  if (values.length === 0) return bridge;
  const value = values.reduce((sum, one) => sum + one, 0);
  const piece = {
    cause: 'written off',
    value,
    records: new Uint32Array(),
    rolledUp: values.reduce((sum, one) => sum + Math.abs(one), 0),
  } as const;
  return { ...bridge, pieces: [...bridge.pieces, piece], unexplained: bridge.unexplained - value };
};

/** The rows of a segment, for those who open a piece. */
export const rowsOfSeq = (columns: VisitColumns, wanted: ReadonlySet<number>): number[] => {
  const rows: number[] = [];
  for (const [n, segment] of columns.segments.entries())
    for (let i = 0; i < segment.rows; i++)
      if (wanted.has(element(segment.seq[i]))) rows.push(n * segmentRows + i);
  return rows;
};

/** Days on which theirs differs from ours by more than a tenth. */
export const daysApart = (bridge: Pick<ClickBridge, 'days' | 'reported'>): ClickDay[] =>
  bridge.reported ? bridge.days.filter(({ comparable, theirs }) => isApart(comparable, theirs)) : [];
