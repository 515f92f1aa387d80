import type { DBSchema, IDBPDatabase } from 'idb';
import { openDB } from 'idb';
import type { BrowserSeal, Change, ServerStory, RecordKind, StoredChange } from '#core/catalogue';
import type { RolledUp } from '#core/queries';
import type { JournalRecord, StoredRows } from '#core/visits';
import { lock } from './lock.ts';
import { hasRoom } from './room.ts';

/** What the server last had of a record, as far as this browser knows. */
export type Stored = Pick<StoredChange, 'revision' | 'version' | 'change' | 'by' | 'at'>;

/** A record of the catalogue as this browser holds it. */
export interface Row {
  readonly record: string;
  readonly kind: RecordKind;
  /** The newest version made or seen here; null when removed. */
  readonly value: object | null;
  /** Left out for one that no server ever took. */
  readonly stored?: Stored;
}

/** An edit that waits to be taken by the server; one a record. */
export interface Waiting {
  readonly record: string;
  /** The newest edit, with all that was edited before and not taken yet. */
  readonly change: Change;
  /**
   * What was sent and not answered yet: it may have arrived. It is sent again, as it was, before the newest edit is, so that
   * it is always known on what that one builds.
   */
  readonly inFlight?: Change;
  /** What came of the record while that was in flight; what it means shows in the answer. */
  readonly news?: StoredChange;
  /** The signature of the server it was first sent to. */
  readonly sentTo?: string;
  /**
   * What the server had when this edit began, or what is in flight builds on: null where there was no record, undefined where that is not known any more,
   * since an older folder was put back.
   */
  readonly from: object | null | undefined;
  readonly refusal?: { readonly path: string; readonly message: string };
  /** What somebody else made of it, where both changed the same and a person has to choose. */
  readonly theirs?: StoredChange;
}

/** Records of a journal that the server lost: kept until a person has saved them or let them go. */
export interface LostRecords {
  /** When they were found missing; milliseconds since 1970 UTC. */
  readonly at: number;
  readonly records: readonly JournalRecord[];
}

/** What is known beside the records, by its name. */
interface Meta {
  /** Up to which version of the change feed everything is here. */
  version: number;
  /** The server this browser is filled from. */
  server: ServerStory;
  /** Up to which record the journal is here, and how many the server had. */
  seq: number;
  there: number;
  /** How many records of the journal this browser is to keep at most. */
  most: number;
  /** The server the journal is of. */
  journal: ServerStory;
  /** Seals of the server's journal, oldest first. */
  seals: readonly BrowserSeal[];
  /** Stands here as long as nobody emptied this browser's storage. */
  filled: true;
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
  lost: { key: number; value: LostRecords };
  meta: { key: keyof Meta; value: Meta[keyof Meta] };
}

export type Database = IDBPDatabase<Schema>;

/** One thing that is known beside the records; undefined where it is not. */
export const readMeta = async <K extends keyof Meta>(
  store: { readonly get: (key: keyof Meta) => Promise<Meta[keyof Meta] | undefined> },
  key: K,
): Promise<Meta[K] | undefined> => (await store.get(key)) as Meta[K] | undefined; // written under the same key alone
export type { Meta };

/**
 * The format of this browser's database, which is also its version in IndexedDB. A change that the code before could not
 * read gives it the next number.
 */
export const databaseFormat = 7;

/** The database is in an older format than this code reads. The message says what to do. */
export class OldFormat extends Error {
  constructor(format: number) {
    super(
      `What this browser holds is in format ${format}, and Fernhop reads format ${databaseFormat} alone. Clear this site’s data in the browser’s settings and load the page again: what the server has comes back, edits that were never sent do not.`,
    );
  }
}

/** This browser did not keep what was to be saved. The message says why and what to do; nothing of it was kept. */
export class NotKept extends Error {}

const nameOf = (error: unknown): string => (error instanceof Error ? error.name : '');

/** What a failed write means, in words for the person who saved. */
export const asNotKept = (error: unknown): NotKept => {
  if (error instanceof NotKept) return error;
  const cause = error instanceof Error ? error.message : String(error);
  if (nameOf(error) === 'QuotaExceededError')
    return new NotKept(
      'Nothing was saved: this browser cannot keep more. Free some room on its disk, or roll up old days in Setup; then save again.',
      { cause: error },
    );
  if (nameOf(error) === 'VersionError')
    return new NotKept(
      'Nothing was saved: another tab runs a newer Fernhop. Copy what you typed, then load this page again.',
      { cause: error },
    );
  // What Chromium says when the disk itself is full (seen in version 156).
  if (nameOf(error) === 'UnknownError')
    return new NotKept(
      'Nothing was saved: this browser’s storage failed, as it does when the disk is full. Free some room, then save again.',
      { cause: error },
    );
  return new NotKept(`Nothing was saved: this browser’s storage failed (${cause}). Save again.`, {
    cause: error,
  });
};

const createStores = (database: Database): void => {
  database.createObjectStore('records', { keyPath: 'record' });
  database.createObjectStore('outbox', { keyPath: 'record' });
  database.createObjectStore('journal', { keyPath: 'seq' });
  database.createObjectStore('segments', { keyPath: 'first' });
  database.createObjectStore('rolledUp');
  database.createObjectStore('lost', { keyPath: 'at' });
  database.createObjectStore('meta');
};

/** A browser's database: opened once, and anew after it was closed under us. */
export interface Storage {
  /** @throws OldFormat where what is stored is in an older format; it is left as it is */
  database(): Promise<Database>;
  /** Opens it anew the next time: the connection there is no longer answers. */
  forget(): void;
  /**
   * Has every window and worker let go of the database and open it anew, as the storage beneath failed: Chromium opens that
   * again only once nobody has held it for two seconds, and goes on failing until then.
   */
  renew(): void;
  /** Is told when the database was closed under us, as when a person clears the site's data. */
  onClosed(listener: () => void): void;
}

/** A little longer than Chromium holds a storage that nobody uses (seen in version 156). */
const letGoMs = 2500;
/** So often it is tried to open a storage that failed, before whoever waits for it is told. */
const attempts = 3;

/** By which windows and workers of this site hear that all are to let go of a database. */
export const connectionsOf = (name: string): BroadcastChannel => new BroadcastChannel(`${name}-connections`);

/**
 * Opens a storage that failed, after a pause in which nobody holds it or asks for it: windows and workers take turns, as one that
 * asks during another's pause lets Chromium go on failing.
 */
const reopened = async (name: string, open: () => Promise<Database>): Promise<Database> => {
  const afterPause = async (): Promise<Database> => {
    if (!(await hasRoom())) throw new DOMException('The disk is full.', 'QuotaExceededError');
    await new Promise((resolve) => setTimeout(resolve, letGoMs));
    return open();
  };
  for (let attempt = 1; ; attempt++) {
    try {
      return await lock(`${name}-reopening`, afterPause);
    } catch (error) {
      if (attempt === attempts || nameOf(error) !== 'UnknownError') throw error;
    }
  }
};

/** The one place where the database is opened, reopened and given its stores. */
export const openStorage = (name: string): Storage => {
  let opened: Promise<Database> | undefined;
  /** The storage beneath failed, and was not opened since. */
  let hasFailed = false;
  const listeners: (() => void)[] = [];
  const closed = (): void => {
    for (const listener of listeners) listener();
  };
  const open = async (): Promise<Database> => {
    let older = 0;
    try {
      return await openDB<Schema>(name, databaseFormat, {
        upgrade: (db, from, _to, transaction) => {
          older = from;
          if (from === 0) createStores(db);
          else {
            transaction.done.catch(() => undefined); // told by the error below
            transaction.abort();
          }
        },
        // Another tab with a newer version, or whoever deletes it, needs this one to let go.
        blocking: (_current, _blocked, event) => {
          (event.target as IDBDatabase).close(); // only a database blocks
          forget();
          closed();
        },
        terminated: () => {
          letGo();
          closed();
        },
      });
    } catch (error) {
      throw older > 0 ? new OldFormat(older) : error;
    }
  };
  /** Whoever asks while it opens has the same answer; whoever asks after it failed has it opened again. */
  const hold = (made: Promise<Database>): Promise<Database> => {
    opened = made;
    made.then(
      () => {
        if (opened === made) hasFailed = false;
      },
      () => {
        if (opened === made) opened = undefined;
      },
    );
    return made;
  };
  const forget = (): void => {
    if (!hasFailed) opened = undefined;
  };
  const channel = connectionsOf(name);
  const letGo = (): void => {
    if (hasFailed) return;
    hasFailed = true;
    const before = opened;
    opened = undefined;
    void before?.then(
      (db) => {
        db.close();
      },
      () => undefined,
    );
  };
  channel.onmessage = letGo;
  return {
    database: () => opened ?? hold(hasFailed ? reopened(name, open) : open()),
    renew: () => {
      letGo();
      channel.postMessage('let go');
    },
    forget,
    onClosed: (listener) => void listeners.push(listener),
  };
};

/** This browser's own. */
export const storage = openStorage('fernhop');
export const { database } = storage;
