import type { TraceResult } from '#core/anatomy';
import type { Decision, Link, Network, Program, Report, Settings } from '#core/catalogue';
import type { Clicks, Joined, Books as Reconcilable, Reconciled } from '#core/reconcile';
import { clicksOf, joinBooks, rechoose, settle, whatIsBelieved } from '#core/reconcile';
import type { AuditRecord, JournalRecord, LostRecord, PostbackRecord, TraceRecord } from '#core/visits';
import type { Summed } from './database.ts';
import {
  Columns,
  ColumnSieve,
  defaultRules,
  addSums,
  makeIsRobot,
  postbackOfPixel,
  thin,
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

const nothingSummed: Summed = { before: 0, sums: [] };

/**
 * The journal as this browser holds it: requests as columns, the rest as records, and what is computed from both.
 * Records are put in by their order; everything else follows from them.
 */
export class HeldJournal {
  columns = new Columns();
  /** Old requests of which only sums are kept. */
  summed: Summed = nothingSummed;
  postbacks: PostbackRecord[] = [];
  traceRecords: TraceRecord[] = [];
  lost: LostRecord[] = [];
  /** What happened around keys and exports. */
  audits: AuditRecord[] = [];
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
    this.summed = nothingSummed;
    this.#sieve = this.#newSieve();
    this.postbacks = [];
    this.traceRecords = [];
    this.lost = [];
    this.audits = [];
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
        break;
      case 'audit':
        this.audits.push(record);
        return;
      case 'second':
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

  /** The clicks as reconciling looks them up. */
  clicks(): Clicks {
    return clicksOf(this.columns, this.sieve, this.books.links, this.summed.before);
  }

  /** Counts the past anew by other rules. */
  setRules(rules: Settings['sieve']): void {
    if (JSON.stringify(rules) === JSON.stringify(this.#rules)) return;
    this.#rules = rules;
    this.#sieve = this.#newSieve();
    this.#forget();
  }

  /**
   * Makes daily sums of the requests before a moment (milliseconds since 1970 UTC, a midnight of UTC). Clicks that a
   * conversion leads to stay, and so does the newest row, by which this journal is known.
   *
   * @param zone of our own days
   */
  thin(before: number, zone: string): void {
    const matched = new Set(this.reconciled.units.map(({ match }) => match.row));
    const zones = new Map(this.books.networks.map((network) => [network.id, network.zone]));
    const zoneOf = new Map(
      this.books.links.map(({ id, network }) => [id, zones.get(network ?? '') ?? zone] as const),
    );
    const { columns, sums } = thin({
      columns: this.columns,
      sieve: this.sieve,
      before,
      stays: (row) => matched.has(row) || row === this.columns.rows - 1,
      zone,
      theirZone: (link) => zoneOf.get(link) ?? zone,
    });
    this.columns = columns;
    this.summed = {
      before: Math.max(before, this.summed.before),
      sums: addSums([this.summed.sums, sums]),
    };
    this.#sieve = this.#newSieve();
    this.#forget();
  }

  setBooks(books: Partial<Books>): void {
    const before = whatIsBelieved(this.books.decisions);
    this.books = { ...this.books, ...books };
    const decidedOnly = Object.keys(books).join() === 'decisions';
    if (!decidedOnly || whatIsBelieved(this.books.decisions) !== before) {
      this.#forget();
      return;
    }
    // Most decisions leave what was joined as it is, and one that chooses a click changes little of it.
    if (this.#joined) this.#joined = rechoose(this.#joined, this.#allBooks());
    this.#reconciled = undefined;
  }

  #allBooks(): Reconcilable {
    return {
      columns: this.columns,
      sieve: this.sieve,
      summedBefore: this.summed.before,
      postbacks: this.postbacks,
      ...this.books,
    };
  }

  #forget(): void {
    this.#joined = undefined;
    this.#reconciled = undefined;
  }

  /** Everything reconciled; computed when first asked for after something changed. */
  get reconciled(): Reconciled {
    this.#joined ??= joinBooks(this.#allBooks());
    return (this.#reconciled ??= settle(this.#joined, this.books.decisions));
  }

  /** A record as it was when the journal had come to a `seq`. */
  versionAt(record: string, seq: number): object | undefined {
    return this.versions.get(record)?.findLast((version) => version.seq < seq)?.value ?? undefined;
  }
}
