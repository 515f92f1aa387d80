import { isbot } from 'isbot';
import { visitOfBeacon } from './beacon.ts';
import { VisitColumns } from './columns.ts';
import { postbackOfPixel } from './pixel.ts';
import type {
  AuditRecord,
  HopRecord,
  JournalRecord,
  LostRecord,
  PostbackRecord,
  ReadingRecord,
  TraceRecord,
} from './records.ts';

/** One version of a record of the catalogue, as somebody made it. */
export interface RecordVersion {
  readonly seq: number;
  readonly at: number;
  readonly by: string;
  readonly version: number;
  /** Changes of one step carry the same; empty where a change stands alone. */
  readonly step: string;
  /** Null when it was removed. */
  readonly value: object | null;
}

/** Tells robots by their user agent: those that are known, and pieces of names the person added. */
export const makeIsRobot =
  (more: readonly string[] = []) =>
  (userAgent: string): boolean =>
    isbot(userAgent) || more.some((piece) => userAgent.toLowerCase().includes(piece.toLowerCase()));

/** The request that a record tells of; undefined for a record of something else. */
export const visitOf = (record: JournalRecord): HopRecord | undefined => {
  if (record.kind === 'hop') return record;
  return record.kind === 'beacon' && record.event === 'click' ? visitOfBeacon(record) : undefined;
};

/** True for a record that is kept as a row of columns. */
export const isVisit = (record: JournalRecord): boolean =>
  record.kind === 'hop' || (record.kind === 'beacon' && record.event === 'click');

/** The records of a journal, each where it is looked for: requests as columns, the others by their kind. */
export class SortedJournal {
  columns = new VisitColumns();
  readonly postbacks: PostbackRecord[] = [];
  readonly traces: TraceRecord[] = [];
  readonly lost: LostRecord[] = [];
  /** How pages with the page script were read. */
  readonly readings: ReadingRecord[] = [];
  /** What happened around keys and exports. */
  readonly audits: AuditRecord[] = [];
  /** Versions of every record of the catalogue, by its ID, oldest first. */
  readonly versions = new Map<string, RecordVersion[]>();

  constructor(records: Iterable<JournalRecord> = []) {
    for (const record of records) this.put(record);
  }

  /** Puts a record behind those of its kind; tells whether matching rests on it. */
  put(record: JournalRecord): boolean {
    switch (record.kind) {
      case 'hop':
        this.columns.add(record);
        return true;
      case 'beacon':
        if (record.event === 'click') this.columns.add(visitOfBeacon(record));
        return record.event === 'click';
      case 'postback':
        this.postbacks.push(record);
        return true;
      case 'pixel':
        this.postbacks.push(postbackOfPixel(record));
        return true;
      case 'lost':
        this.lost.push(record);
        return false;
      case 'trace':
        this.traces.push(record);
        // A person's trace is a click to the network; the nightly check asks the shop alone.
        return record.by === 'person';
      case 'audit':
        this.audits.push(record);
        return false;
      case 'second':
        return false;
      case 'reading':
        this.readings.push(record);
        return false;
      case 'change': {
        const { seq, at, by, version, step = '', value } = record;
        const made: RecordVersion = { seq, at, by, version, step, value };
        const earlier = this.versions.get(record.record);
        if (earlier) earlier.push(made);
        else this.versions.set(record.record, [made]);
        return false;
      }
    }
  }
}
