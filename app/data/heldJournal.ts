import type { TraceResult } from '#core/anatomy';
import type { Decision, Link, Network, Program, Report, Settings } from '#core/catalogue';
import type { Joined, Reconciled } from '#core/reconcile';
import { joinBooks, settle, whatJoins } from '#core/reconcile';
import type { JournalRecord, PostbackRecord, TraceRecord } from '#core/visits';
import {
  Columns,
  ColumnSieve,
  defaultRules,
  makeIsRobot,
  postbackOfPixel,
  visitOfBeacon,
} from '#core/visits';

/** One version of a record, as somebody made it. */
export interface Version {
  readonly seq: number;
  readonly at: number;
  readonly by: string;
  readonly edition: number;
  /** Changes of one step carry the same; empty where a change stands alone. */
  readonly step: string;
  /** Null when it was removed. */
  readonly value: object | null;
}

/** What of the catalogue reconciling needs. */
export interface Books {
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly Pick<Link, 'id' | 'network' | 'program' | 'slug'>[];
  readonly reports: readonly Report[];
  readonly decisions: readonly Decision[];
}

/** True for a record that is kept as a row of columns. */
export const isVisit = (record: JournalRecord): boolean =>
  record.kind === 'hop' || (record.kind === 'beacon' && record.event === 'click');

/**
 * The journal as this browser holds it: requests as columns, the rest as records, and what is computed from both.
 * Records are put in by their order; everything else follows from them.
 */
export class HeldJournal {
  columns = new Columns();
  postbacks: PostbackRecord[] = [];
  traceRecords: TraceRecord[] = [];
  lost: { seq: number; at: number; count: number }[] = [];
  /** Versions of links and domains by record, oldest first. */
  readonly versions = new Map<string, Version[]>();
  /** What the newest trace of each link came to. */
  readonly traces = new Map<string, TraceResult>();
  books: Books = { networks: [], programs: [], links: [], reports: [], decisions: [] };
  #rules: Settings['sieve'];
  #sieve = this.#newSieve();
  #joined: Joined | undefined;
  #reconciled: Reconciled | undefined;
  /** The `seq` of the newest record held. */
  last = 0;

  #newSieve(): ColumnSieve {
    const rules = this.#rules;
    return new ColumnSieve(this.columns, makeIsRobot(rules?.robots), rules ?? defaultRules);
  }

  clear(): void {
    this.columns = new Columns();
    this.#sieve = this.#newSieve();
    this.postbacks = [];
    this.traceRecords = [];
    this.lost = [];
    this.versions.clear();
    this.traces.clear();
    this.#forget();
    this.last = 0;
  }

  /** Puts records in; those already there are passed over. */
  add(records: readonly JournalRecord[]): void {
    for (const record of records) {
      if (record.seq <= this.last) continue;
      this.last = record.seq;
      this.#put(record);
    }
  }

  /** Puts in records that are kept as such, read from storage: they may lie before rows that are held already. */
  addStored(records: readonly JournalRecord[]): void {
    for (const record of records) {
      this.last = Math.max(this.last, record.seq);
      this.#put(record);
    }
  }

  /** Called after rows were put into the columns from outside. */
  rowsCame(lastSeq: number): void {
    this.last = Math.max(this.last, lastSeq);
    this.#forget();
  }

  #put(record: JournalRecord): void {
    switch (record.kind) {
      case 'hop':
        this.columns.add(record);
        break;
      case 'beacon':
        if (record.event === 'click') this.columns.add(visitOfBeacon(record));
        break;
      case 'postback':
        this.postbacks.push(record);
        break;
      case 'lost':
        this.lost.push(record);
        return;
      case 'trace': {
        const { at, alive, because, kept = this.traces.get(record.link)?.kept } = record;
        this.traces.set(record.link, { at, alive, because, ...(kept && { kept }) });
        this.traceRecords.push(record);
        return;
      }
      case 'change': {
        const { seq, at, by, edition, step = '', value } = record;
        const version: Version = { seq, at, by, edition, step, value };
        const before = this.versions.get(record.record);
        if (before) before.push(version);
        else this.versions.set(record.record, [version]);
        return;
      }
      case 'pixel':
        this.postbacks.push(postbackOfPixel(record));
        break;
    }
    this.#forget();
  }

  /** The sieve, gone over every row there is. */
  get sieve(): ColumnSieve {
    this.#sieve.go();
    return this.#sieve;
  }

  /** Counts the past anew by other rules. */
  setRules(rules: Settings['sieve']): void {
    if (JSON.stringify(rules) === JSON.stringify(this.#rules)) return;
    this.#rules = rules;
    this.#sieve = this.#newSieve();
    this.#forget();
  }

  setBooks(books: Partial<Books>): void {
    const before = whatJoins(this.books.decisions);
    this.books = { ...this.books, ...books };
    // Most decisions leave what was joined as it is.
    if (Object.keys(books).join() === 'decisions' && whatJoins(this.books.decisions) === before)
      this.#reconciled = undefined;
    else this.#forget();
  }

  #forget(): void {
    this.#joined = undefined;
    this.#reconciled = undefined;
  }

  /** Everything reconciled; computed when first asked for after something changed. */
  get reconciled(): Reconciled {
    this.#joined ??= joinBooks({
      columns: this.columns,
      sieve: this.sieve,
      postbacks: this.postbacks,
      ...this.books,
    });
    return (this.#reconciled ??= settle(this.#joined, this.books.decisions));
  }

  /** A record as it was when the journal had come to a `seq`. */
  versionAt(record: string, seq: number): object | undefined {
    return this.versions.get(record)?.findLast((version) => version.seq < seq)?.value ?? undefined;
  }
}
