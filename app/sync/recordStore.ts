import pLimit from 'p-limit';
import { upgradeRecord } from '#core/catalogue';
import type { Database, Meta, Row, Storage, Waiting } from './database.ts';
import { asNotKept, readMeta } from './database.ts';
import { screenTurn } from '../data/screenTurn.ts';

/** What is to be written of one record: its row, where that changed, and the change that waits, or none any more. */
export interface Entry {
  readonly record: string;
  /** Null lets the record go altogether. */
  readonly row?: Row | null | undefined;
  readonly waiting?: Waiting | undefined;
}

/** After so many records the screen has its turn. */
const perTurn = 250;
/** And after so many that were asked of the database, which works on those before meanwhile. */
const putsPerTurn = 125;

export interface RecordStoreParts {
  readonly storage: Storage;
  readonly rows: Map<string, Row>;
  readonly waiting: Map<string, Waiting>;
  /** By which windows of one browser tell each other which records they wrote. */
  readonly channel?: BroadcastChannel | undefined;
}

/**
 * The records and the outbox of a browser, in memory and in its database. What is written here is in the database before
 * it is in memory, as a whole or not at all, and other windows hear of it.
 */
export const makeRecordStore = ({ storage, rows, waiting, channel }: RecordStoreParts) => {
  /** What was last written beside the records, for when the storage has to be filled again. */
  const meta: Partial<Meta> = {};

  const hold = (row: Row): void => {
    rows.set(row.record, row.value ? { ...row, value: upgradeRecord(row.kind, row.value) } : row);
  };
  const holdEntry = ({ record, row, waiting: change }: Entry): void => {
    if (row) hold(row);
    else if (row === null) rows.delete(record);
    if (change) waiting.set(record, change);
    else waiting.delete(record);
  };

  /** Uses the database; where it was closed under us meanwhile, the one that is opened in its place. */
  const inDatabase = async <T>(use: (db: Database) => Promise<T>): Promise<T> => {
    try {
      return await use(await storage.database());
    } catch (error) {
      if (error instanceof Error && error.name === 'UnknownError') storage.renew();
      if (!(error instanceof Error) || error.name !== 'InvalidStateError') throw error;
      storage.forget();
      return use(await storage.database());
    }
  };

  const inTurn = pLimit(1);
  /**
   * Writes entries and what is known beside them in one transaction. Writes take turns, and each makes its entries when
   * its turn comes: from what is held then, not from what was held when it was asked for.
   *
   * @throws NotKept where the browser did not keep them; then nothing changed, here or there
   */
  const write = (make: () => Iterable<Entry>, beside: Partial<Meta> = {}): Promise<void> =>
    inTurn(async () => {
      const entries: Entry[] = [];
      for (const entry of make()) {
        entries.push(entry);
        if (entries.length % perTurn === 0) await screenTurn();
      }
      try {
        await inDatabase((db) => put(db, entries, beside));
      } catch (error) {
        throw asNotKept(error);
      }
      Object.assign(meta, beside);
      entries.forEach(holdEntry);
      channel?.postMessage(entries.map((entry) => entry.record));
    });

  const put = async (db: Database, entries: readonly Entry[], beside: Partial<Meta>): Promise<void> => {
    const tx = db.transaction(['records', 'outbox', 'meta'], 'readwrite');
    const [records, outbox, besides] = [
      tx.objectStore('records'),
      tx.objectStore('outbox'),
      tx.objectStore('meta'),
    ];
    /** One that fails ends the transaction, which then says why. */
    const asked = (request: Promise<unknown>): Promise<unknown> => {
      request.catch(() => undefined);
      return request;
    };
    const work = async (): Promise<void> => {
      const filled = await besides.get('filled');
      // Somebody emptied the storage while this window was open: what memory holds goes back into it first.
      if (filled === undefined) {
        for (const row of rows.values()) void records.put(row);
        for (const change of waiting.values()) void outbox.put(change);
      }
      const known: Partial<Meta> = filled === undefined ? { ...meta, ...beside, filled: true } : beside;
      for (const [key, value] of Object.entries(known)) void besides.put(value, key as keyof Meta); // its keys
      let last: Promise<unknown> = Promise.resolve();
      let lastOfTurn = last;
      for (const [i, { record, row, waiting: change }] of entries.entries()) {
        if (row) last = asked(records.put(row));
        else if (row === null) last = asked(records.delete(record));
        if (change) last = asked(outbox.put(change));
        // Only what this window knows to wait is let go: another one may just have written there.
        else if (waiting.has(record)) last = asked(outbox.delete(record));
        // The transaction stays open meanwhile: what was asked of it in this turn is not done yet.
        if (i % putsPerTurn === putsPerTurn - 1) {
          await lastOfTurn;
          lastOfTurn = last;
        }
      }
    };
    // A request that fails ends the transaction, which then says why.
    const done = tx.done;
    work().catch(() => {
      try {
        tx.abort();
      } catch {
        // it has ended already
      }
    });
    await done;
  };

  /** Reads everything; gives what is known beside it. */
  const load = async (): Promise<Partial<Meta>> => {
    // One transaction, so that the version is that of these very records, whatever another window does meanwhile.
    const tx = (await storage.database()).transaction(['records', 'outbox', 'meta']);
    const [records, changes, version, server] = await Promise.all([
      tx.objectStore('records').getAll(),
      tx.objectStore('outbox').getAll(),
      readMeta(tx.objectStore('meta'), 'version'),
      readMeta(tx.objectStore('meta'), 'server'),
      tx.done,
    ]);
    // What another window told of in the meantime is newer than what was read.
    for (const row of records) if (!rows.has(row.record)) hold(row);
    for (const change of changes) if (!waiting.has(change.record)) waiting.set(change.record, change);
    Object.assign(meta, version !== undefined && { version }, server !== undefined && { server });
    return meta;
  };

  /** The server this browser is filled from, as it is stored: another window may have met one. */
  const readServer = (): Promise<Meta['server'] | undefined> =>
    inDatabase((db) => readMeta(db.transaction('meta').store, 'server'));

  /** Begins to hear what other windows write, and to fill the storage again when somebody empties it. */
  const listen = (): void => {
    storage.onClosed(() => {
      // Where it cannot be filled at once, the next write tries again and says so.
      write(() => []).catch(() => undefined);
    });
    if (!channel) return;
    channel.onmessage = async ({ data }: MessageEvent<string[]>) => {
      const tx = (await storage.database()).transaction(['records', 'outbox']);
      const found = await Promise.all(
        data.map(async (record) => ({
          record,
          row: (await tx.objectStore('records').get(record)) ?? null,
          waiting: await tx.objectStore('outbox').get(record),
        })),
      );
      found.forEach(holdEntry);
    };
  };

  return { listen, load, readServer, rows, waiting, write };
};

export type RecordStore = ReturnType<typeof makeRecordStore>;
