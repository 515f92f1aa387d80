import type { DBSchema, IDBPDatabase } from 'idb';
import { openDB } from 'idb';
import type { Change, StoredChange, RecordKind } from '#core/catalogue';
import type { RolledUp } from '#core/queries';
import type { JournalRecord, StoredRows } from '#core/visits';

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
  readonly theirs?: StoredChange;
}

interface Schema extends DBSchema {
  records: { key: string; value: Row };
  outbox: { key: string; value: Waiting };
  /** Records of the journal that are no requests. */
  journal: { key: number; value: JournalRecord };
  /** Requests as columns, in pieces of at most a segment, by their first row. */
  segments: { key: number; value: { readonly first: number; readonly stored: StoredRows } };
  /** Old requests as counts: one record, by the key `old`. */
  rolledUp: { key: string; value: RolledUp };
  meta: { key: string; value: string | number };
}

export type Database = IDBPDatabase<Schema>;

/**
 * The format of this browser's database, which is also its version in IndexedDB. A change that the code before could not
 * read gives it the next number.
 */
export const databaseFormat = 6;

/** The database is in an older format than this code reads. The message says what to do. */
export class OldFormat extends Error {
  constructor(format: number) {
    super(
      `What this browser holds is in format ${format}, and Fernhop reads format ${databaseFormat} alone. Clear this site’s data in the browser’s settings and load the page again: what the server has comes back, edits that were never sent do not.`,
    );
  }
}

const createStores = (database: Database): void => {
  database.createObjectStore('records', { keyPath: 'record' });
  database.createObjectStore('outbox', { keyPath: 'record' });
  database.createObjectStore('journal', { keyPath: 'seq' });
  database.createObjectStore('segments', { keyPath: 'first' });
  database.createObjectStore('rolledUp');
  database.createObjectStore('meta');
};

let opened: Promise<Database> | undefined;

/**
 * The browser's database; opened once.
 *
 * @throws OldFormat where what is stored is in an older format; it is left as it is
 */
export const database = (): Promise<Database> => (opened ??= openDatabase());

const openDatabase = async (): Promise<Database> => {
  let older = 0;
  try {
    return await openDB<Schema>('fernhop', databaseFormat, {
      upgrade: (db, from, _to, transaction) => {
        older = from;
        if (from === 0) createStores(db);
        else {
          transaction.done.catch(() => undefined); // told by the error below
          transaction.abort();
        }
      },
      // Another tab with a newer version needs this one to let go.
      blocking: (_current, _blocked, event) => (event.target as IDBDatabase).close(), // only a database blocks
    });
  } catch (error) {
    throw older > 0 ? new OldFormat(older) : error;
  }
};
