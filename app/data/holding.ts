import pLimit from 'p-limit';
import { shallowReactive } from 'vue';
import { upgradeRecord } from '#core/catalogue';
import type { Row, Waiting } from './database.ts';
import { database } from './database.ts';

/** What is to be written of one record: its row, where that changed, and the change that waits, or none any more. */
export interface Entry {
  readonly record: string;
  readonly row?: Row | undefined;
  readonly waiting?: Waiting | undefined;
}

/** Entries of one transaction: few enough that the screen does not stand still while they are copied. */
const perTransaction = 250;

/**
 * The records and the outbox of this browser, in memory and in its database. What is written here is in the database
 * before it is in memory, and other windows hear of it.
 */
export const makeHolding = () => {
  const rows = shallowReactive(new Map<string, Row>());
  const waiting = shallowReactive(new Map<string, Waiting>());
  const channel = new BroadcastChannel('fernhop-catalogue');

  const hold = (row: Row): void => {
    rows.set(row.record, row.value ? { ...row, value: upgradeRecord(row.kind, row.value) } : row);
  };

  const inTurn = pLimit(1);
  /**
   * Writes entries, each with its waiting change in one transaction. Writes take turns, and each makes its entries when
   * its turn comes: from what is held then, not from what was held when it was asked for.
   */
  const write = (make: () => Iterable<Entry>): Promise<void> => inTurn(() => put(make()));
  const put = async (entries: Iterable<Entry>): Promise<void> => {
    const db = await database();
    // Entries are made as they are written, so that many of them do not stop the screen all at once.
    const rest = entries[Symbol.iterator]();
    for (;;) {
      const part: Entry[] = [];
      while (part.length < perTransaction) {
        const next = rest.next();
        if (next.done) break;
        part.push(next.value);
      }
      if (part.length === 0) return;
      const tx = db.transaction(['records', 'outbox'], 'readwrite');
      for (const { record, row, waiting: change } of part) {
        if (row) void tx.objectStore('records').put(row);
        if (change) void tx.objectStore('outbox').put(change);
        else void tx.objectStore('outbox').delete(record);
      }
      await tx.done;
      for (const { record, row, waiting: change } of part) {
        if (row) hold(row);
        if (change) waiting.set(record, change);
        else waiting.delete(record);
      }
      channel.postMessage(part.map((entry) => entry.record));
    }
  };

  /** Lets records go, with whatever waits of them. */
  const forget = async (records: readonly string[]): Promise<void> => {
    const tx = (await database()).transaction(['records', 'outbox'], 'readwrite');
    for (const record of records) {
      void tx.objectStore('records').delete(record);
      void tx.objectStore('outbox').delete(record);
    }
    await tx.done;
    for (const record of records) {
      rows.delete(record);
      waiting.delete(record);
    }
    channel.postMessage([...records]);
  };

  /** Reads everything; gives the version it is of. */
  const load = async (): Promise<number> => {
    // One transaction, so that the version is that of these very records, whatever another window does meanwhile.
    const tx = (await database()).transaction(['records', 'outbox', 'meta']);
    const [records, changes, version] = await Promise.all([
      tx.objectStore('records').getAll(),
      tx.objectStore('outbox').getAll(),
      tx.objectStore('meta').get('version'),
      tx.done,
    ]);
    // What another window told of in the meantime is newer than what was read.
    for (const row of records) if (!rows.has(row.record)) hold(row);
    for (const change of changes) if (!waiting.has(change.record)) waiting.set(change.record, change);
    return Number(version ?? 0);
  };

  /** Begins to hear what other windows write. */
  const listen = (): void => {
    channel.onmessage = async ({ data }: MessageEvent<string[]>) => {
      const tx = (await database()).transaction(['records', 'outbox']);
      const found = await Promise.all(
        data.map(async (record) => ({
          record,
          row: await tx.objectStore('records').get(record),
          change: await tx.objectStore('outbox').get(record),
        })),
      );
      for (const { record, row, change } of found) {
        if (row) hold(row);
        else rows.delete(record);
        if (change) waiting.set(record, change);
        else waiting.delete(record);
      }
    };
  };

  return { forget, listen, load, rows, waiting, write };
};
