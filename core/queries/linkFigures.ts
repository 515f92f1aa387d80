import type { Status } from '#core/catalogue';
import { addTo, element } from '#core/catalogue';
import type { Conversion } from '#core/conversions';
import { commissionOf } from '#core/figures';
import type { VisitorSample } from '#core/hop';
import { dayIn, dayName, dayNumber } from '#core/hop';
import { daysOf } from '#core/traffic';
import { outcomeNumber, outcomes, segmentRows } from '#core/visits';
import type { Sum } from '#core/values';
import type { CountedUnit } from './countedUnits.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';
import type { Visit } from './visits.ts';
import { clickIn, newestRows, segmentsSince, visitIn } from './visits.ts';

/** The figures of one link over the last days. */
export interface LinkFigures {
  /** Requests of every kind: counted ones, repeats, bots, and the others. */
  readonly requests: number;
  readonly counted: number;
  readonly repeats: number;
  readonly bots: number;
  /** When the newest counted visit came, in milliseconds since 1970 UTC; undefined where none did. */
  readonly newest?: number;
  /** Those that were not reversed. */
  readonly conversions: number;
  /** Every conversion by its state. */
  readonly states: Readonly<Record<Status, number>>;
  readonly commission: readonly Sum[];
  /** Counted visits of the last 14 days, oldest first, today with them. */
  readonly days: readonly number[];
}

/** A conversion as a line of a list. */
export interface ConversionLine {
  readonly id: string;
  readonly click: string;
  readonly event: string;
  readonly txn: string;
  readonly at: number;
  readonly status: Conversion['status'];
  readonly amount: number | null;
  readonly currency: string;
}

/** What people did with one link over some days. */
export interface LinkUse {
  /** Clicks of people, repeated ones included. */
  readonly clicks: number;
  /** Those of them by a visitor who had clicked it the same day. */
  readonly repeats: number;
  /** Counted visits by branch. */
  readonly branches: ReadonlyMap<string, number>;
  /** Counted visits by source, slips with what they count as; an empty name where none was given. */
  readonly sources: ReadonlyMap<string, number>;
  /** Pages and hosts the counted visits came from. */
  readonly pages: ReadonlyMap<string, number>;
}

/** Visitors to simulate others by, and whose they are. */
export interface Samples {
  readonly of: 'link' | 'all' | 'nobody';
  readonly visitors: readonly VisitorSample[];
}

const day = 86_400_000;
/** Days of the strip beside a link. */
const stripDays = 14;
/** Fewer visitors than these are nothing to draw others from. */
const fewVisitors = 30;

/**
 * Figures of every link with a visit or conversion in the last `days` of the person's own zone, that of `now` (milliseconds since
 * 1970 UTC) with them.
 */
export const figures = (data: Dataset, now: number, days: number): Map<string, LinkFigures> => {
  const today = dayIn(data.zone, now);
  const dayBack = (back: number) => dayName(dayNumber(today) - back);
  const from = element(daysOf(data.zone, dayBack(days - 1), today).starts[0]);
  const { starts } = daysOf(data.zone, dayBack(stripDays - 1), today);
  const { columns } = data.journal;
  const { texts } = columns.dictionaries.link;
  const { outcomes: classified } = data.classification;
  /** Requests of each link by outcome, and when its newest counted one came. */
  const byOutcome = new Float64Array(texts.length * outcomes.length);
  const newest = new Float64Array(texts.length);
  const byDay = new Float64Array(texts.length * stripDays);
  segmentsSince(columns, from, (segment, n) => {
    const ofSegment = element(classified[n]);
    for (let i = 0; i < segment.rows; i++) {
      const at = element(segment.at[i]);
      if (at < from) continue;
      const link = element(segment.link[i]);
      const outcome = element(ofSegment[i]);
      const place = link * outcomes.length + outcome;
      byOutcome[place] = element(byOutcome[place]) + 1;
      if (outcome !== outcomeNumber.counted) continue;
      newest[link] = Math.max(element(newest[link]), at);
      const index = starts.findLastIndex((start) => at >= start);
      if (index < 0 || index >= stripDays) continue;
      byDay[link * stripDays + index] = element(byDay[link * stripDays + index]) + 1;
    }
  });
  const found = new Map<string, LinkFigures>();
  const { byLink } = countedUnits(data);
  for (const link of new Set([...texts, ...byLink.keys()])) {
    const place = columns.dictionaries.link.find(link);
    const list = (byLink.get(link) ?? []).filter(({ conversion }) => conversion.at >= from);
    const requestsBy = (outcome: number) =>
      place < 0 ? 0 : element(byOutcome[place * outcomes.length + outcome]);
    const requests = outcomes.reduce((sum, _, outcome) => sum + requestsBy(outcome), 0);
    if (requests === 0 && list.length === 0) continue;
    const last = place < 0 ? 0 : element(newest[place]);
    // Money that is only taken back is no conversion.
    const real = list.filter(({ conversion }) => !conversion.refundOnly);
    const inState = (status: Status) => real.filter(({ conversion }) => conversion.status === status).length;
    found.set(link, {
      requests,
      counted: requestsBy(outcomeNumber.counted),
      repeats: requestsBy(outcomeNumber.repeat),
      bots: requestsBy(outcomeNumber.bot),
      ...(last > 0 && { newest: last }),
      days: Array.from({ length: stripDays }, (_, i) =>
        place < 0 ? 0 : element(byDay[place * stripDays + i]),
      ),
      conversions: real.length - inState('reversed'),
      states: {
        pending: inState('pending'),
        approved: inState('approved'),
        paid: inState('paid'),
        reversed: inState('reversed'),
      },
      commission: commissionOf(list.map(pricedConversion)),
    });
  }
  return found;
};

/** What people did with a link since `from` (milliseconds since 1970 UTC). */
export const use = (data: Dataset, link: string, from: number): LinkUse => {
  const { classification } = data;
  const { columns } = data.journal;
  const branches = new Map<string, number>();
  const sources = new Map<string, number>();
  const pages = new Map<string, number>();
  const seen = new Set<string>();
  let clicks = 0;
  let repeats = 0;
  const place = columns.dictionaries.link.find(link);
  const rows: number[] = [];
  segmentsSince(columns, from, (segment, n) => {
    for (let i = segment.rows - 1; i >= 0; i--)
      if (segment.link[i] === place && element(segment.at[i]) >= from) rows.push(n * segmentRows + i);
  });
  for (const row of rows.reverse()) {
    const outcome = classification.outcome(row);
    if (outcome !== 'counted' && outcome !== 'repeat') continue;
    const hop = columns.record(row);
    clicks += 1;
    const visitor = `${hop.visitor} ${Math.floor(hop.at / day)}`;
    if (seen.has(visitor)) repeats += 1;
    seen.add(visitor);
    if (outcome === 'repeat') continue;
    addTo(branches, hop.branch);
    addTo(sources, data.sourceOf(hop.source));
    addTo(pages, hop.from.replace(/[?#].*$/, ''));
  }
  return { clicks, repeats, branches, sources, pages };
};

/**
 * Counted visitors to simulate others by: a link's own, those of all links where it had few, nobody where all had few: a
 * handful says nothing of those to come.
 */
export const samples = (data: Dataset, link: string, most: number): Samples => {
  const { classification } = data;
  const { columns } = data.journal;
  const own: number[] = [];
  const any: number[] = [];
  const place = columns.dictionaries.link.find(link);
  for (let row = columns.rows - 1; row >= 0 && own.length < most; row--) {
    if (classification.outcome(row) !== 'counted') continue;
    if (any.length < most) any.push(row);
    if (columns.segmentOf(row).link[row % segmentRows] === place) own.push(row);
  }
  const whose = own.length >= fewVisitors ? 'link' : any.length >= fewVisitors ? 'all' : 'nobody';
  const seen = new Set<string>();
  const visitors = { link: own, all: any, nobody: [] }[whose].reverse().map((row) => {
    const { at, source, country, device, lang, visitor: key, host } = columns.record(row);
    const visitor = `${key} ${host}`;
    const returning = seen.has(visitor);
    seen.add(visitor);
    return { at, source, country, device, language: lang, returning };
  });
  return { of: whose, visitors };
};

/** A conversion as a line of a list, with the amount that the program's terms give it where its postback brought none. */
export const lineOf = (data: Dataset, unit: CountedUnit): ConversionLine => {
  const { id, event, txn, at, status, amount, currency } = pricedConversion(unit);
  return { id, click: clickIn(data, unit.match.row), event, txn, at, status, amount, currency };
};

/** The newest clicks and conversions of a link, newest first. */
export const recent = (
  data: Dataset,
  link: string,
  most: number,
): { visits: Visit[]; conversions: ConversionLine[] } => {
  const { columns } = data.journal;
  const place = columns.dictionaries.link.find(link);
  const isOfLink = (row: number) => columns.segmentOf(row).link[row % segmentRows] === place;
  const visits = place < 0 ? [] : newestRows(columns, isOfLink, most).map((row) => visitIn(data, row));
  return {
    visits,
    conversions: [...(countedUnits(data).byLink.get(link) ?? [])]
      .sort((a, b) => b.conversion.at - a.conversion.at)
      .slice(0, most)
      .map((unit) => lineOf(data, unit)),
  };
};
