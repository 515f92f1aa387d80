import type { DBSchema, IDBPDatabase } from 'idb';
import { openDB } from 'idb';
import type { Change, Kept, RecordKind } from '#core/catalogue';
import type { DaySum, JournalRecord, StoredRows } from '#core/visits';

/** A record of the catalogue as this browser holds it. */
export interface Row {
  readonly record: string;
  readonly kind: RecordKind;
  /** The newest version made or seen here; null when removed. */
  readonly value: object | null;
  /** The revision the server last had of it; 0 for one it never had. */
  readonly base: number;
}

/** A change that waits to be taken by the server; one a record. */
export interface Waiting {
  readonly record: string;
  readonly change: Change;
  /** IDs of changes of this record that may have arrived without our hearing of it. */
  readonly sent: readonly string[];
  readonly refusal?: { readonly path: string; readonly message: string };
  /** What somebody else made of it in the meantime. */
  readonly theirs?: Kept;
}

/** Requests before a moment (milliseconds since 1970 UTC) as daily sums. */
export interface Summed {
  readonly before: number;
  readonly sums: readonly DaySum[];
}

interface Schema extends DBSchema {
  records: { key: string; value: Row };
  outbox: { key: string; value: Waiting };
  /** Records of the journal that are no requests. */
  journal: { key: number; value: JournalRecord };
  /** Requests as columns, in pieces of at most a segment, by their first row. */
  segments: { key: number; value: { readonly first: number; readonly stored: StoredRows } };
  /** Old requests as sums: one record, by the key `old`. */
  summed: { key: string; value: Summed };
  meta: { key: string; value: string | number };
  traces: { key: string; value: unknown };
}

export type Database = IDBPDatabase<Schema>;

/** One step for each version; a database of an older one runs through those it lacks. */
export const migrations: readonly ((database: Database) => void)[] = [
  (database) => {
    database.createObjectStore('records', { keyPath: 'record' });
    database.createObjectStore('outbox', { keyPath: 'record' });
    database.createObjectStore('journal', { keyPath: 'seq' });
    database.createObjectStore('meta');
  },
  // What traces came to had a store of its own, until they were told by the journal.
  (database) => {
    database.createObjectStore('traces');
  },
  (database) => {
    database.deleteObjectStore('traces');
  },
  // Requests are kept as columns; the journal is fetched anew.
  (database) => {
    database.deleteObjectStore('journal');
    database.createObjectStore('journal', { keyPath: 'seq' });
    database.createObjectStore('segments', { keyPath: 'first' });
  },
  (database) => {
    database.createObjectStore('summed');
  },
];

let opened: Promise<Database> | undefined;

/** The browser's database; opened once. */
export const database = (): Promise<Database> =>
  (opened ??= openDB<Schema>('fernhop', migrations.length, {
    upgrade: (db, from) => {
      for (const migrate of migrations.slice(from)) migrate(db);
    },
    // Another tab with a newer version needs this one to let go.
    blocking: (_current, _blocked, event) => (event.target as IDBDatabase).close(), // only a database blocks
  }));
