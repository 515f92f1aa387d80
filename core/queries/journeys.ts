import type { Domain, Link } from '#core/catalogue';
import { upgradeRecord } from '#core/catalogue';
import type { Conversion, ReadPostback } from '#core/conversions';
import type { TraceResult } from '#core/link-parts';
import type { Match } from '#core/reconcile';
import type { LostRecord, PostbackRecord } from '#core/visits';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';
import type { Visit } from './visits.ts';
import { rowsAround } from './onward.ts';
import { clickIn, isFromLog, newestRows, rowOfClick, visitIn } from './visits.ts';

/** A conversion with the click it belongs to. */
export interface MatchedConversion {
  readonly conversion: Conversion;
  readonly match: Match;
}

/** One click of a journey. */
export interface Leg {
  readonly visit: Visit;
  /** The link and its domain as they were at that moment. */
  readonly then?: { readonly link: Link; readonly domain: Domain };
}

/** All that is known of one click, and of those it led to or came from by pages of the person's own. */
export interface Journey extends Leg {
  /** The clicks of it, the click itself among them, the oldest first. */
  readonly legs: readonly Leg[];
  readonly conversions: readonly MatchedConversion[];
  readonly postbacks: readonly { record: PostbackRecord; read: ReadPostback }[];
}

/** A line of the tape. */
export type TapeEvent =
  | { readonly seq: number; readonly at: number; readonly kind: 'hop'; readonly visit: Visit }
  | {
      readonly seq: number;
      readonly at: number;
      readonly kind: 'postback';
      readonly read: ReadPostback;
      readonly link: string | undefined;
    }
  | ({ readonly kind: 'lost' } & Pick<LostRecord, 'seq' | 'at' | 'count' | 'why'>);

const legIn = (data: Dataset, row: number): Leg => {
  const visit = visitIn(data, row);
  // Versions of a link and of a domain passed the schema of their kind before they were kept.
  const link = data.versionAt(visit.hop.link, visit.hop.seq) as Link | undefined;
  const found = link && data.versionAt(link.domain, visit.hop.seq);
  const domain = found && (upgradeRecord('domain', found) as Domain);
  return { visit, ...(link && domain && { then: { link, domain } }) };
};

/** Everything known of a click; undefined when the journal holds no such click. */
export const journey = (data: Dataset, click: string): Journey | undefined => {
  const row = rowOfClick(data, click);
  if (row < 0) return undefined;
  const rows = rowsAround(data, row);
  const { reads } = data.reconciled;
  const { byRow } = countedUnits(data);
  const conversions = rows.flatMap((each) => byRow.get(each) ?? []);
  const seqs = new Set(conversions.flatMap(({ conversion }) => conversion.steps.map((step) => step.seq)));
  return {
    ...legIn(data, row),
    legs: rows.map((each) => legIn(data, each)),
    conversions: conversions.map((unit) => ({ conversion: pricedConversion(unit), match: unit.match })),
    postbacks: data.journal.postbacks.flatMap((record) => {
      const read = reads.get(record.seq);
      return read && seqs.has(record.seq) ? [{ record, read }] : [];
    }),
  };
};

/** The click a transaction ID leads to, or undefined. */
export const clickOfTransaction = (data: Dataset, txn: string): string | undefined => {
  const unit = data.reconciled.units.find(
    ({ conversion, reported, link }) => link !== '' && (conversion?.txn === txn || reported?.txn === txn),
  );
  return unit && clickIn(data, unit.match.row);
};

/** The newest counted click on a link of a network; empty where there is none. */
export const newestClick = (data: Dataset, network: string): string => {
  const clicks = data.clicks();
  const { columns } = data.journal;
  const isOfNetwork = (row: number) =>
    clicks.networkOf(row) === network && clicks.outcome(row) === 'counted' && !isFromLog(columns, row);
  const [newest = -1] = newestRows(columns, isOfNetwork, 1);
  return clickIn(data, newest);
};

/** The newest events, newest first. */
export const tape = (data: Dataset, most: number): TapeEvent[] => {
  const { columns, postbacks, lost } = data.journal;
  const events: TapeEvent[] = [];
  for (let row = columns.rows - 1; row >= 0 && events.length < most; row--) {
    // What an access log told of is long past.
    if (isFromLog(columns, row)) continue;
    const visit = visitIn(data, row);
    events.push({ seq: visit.hop.seq, at: visit.hop.at, kind: 'hop', visit });
  }
  const newest = postbacks.slice(-most);
  if (newest.length > 0) {
    const { reads, units } = data.reconciled;
    const seqs = new Set(newest.map((record) => record.seq));
    const links = new Map<number, string>();
    for (const { conversion, link } of units)
      for (const step of conversion?.steps ?? [])
        if (link !== '' && seqs.has(step.seq)) links.set(step.seq, link);
    for (const { seq, at } of newest) {
      const read = reads.get(seq);
      if (read) events.push({ seq, at, kind: 'postback', read, link: links.get(seq) });
    }
  }
  for (const { seq, at, count, why } of lost.slice(-most)) events.push({ seq, at, kind: 'lost', count, why });
  return events.sort((a, b) => b.seq - a.seq).slice(0, most);
};

/** What the newest trace of each link came to, a person's or the nightly check's. */
export const traces = (data: Dataset): Map<string, TraceResult> => {
  const found = new Map<string, TraceResult>();
  for (const { link, at, alive, because, surviving = found.get(link)?.surviving } of data.journal.traces)
    found.set(link, { at, alive, because, ...(surviving && { surviving }) });
  return found;
};
