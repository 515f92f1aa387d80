import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { clickId } from '#core/hop';
import { Dataset } from '#core/queries';
import type { JournalRecord } from '#core/visits';
import type { Database } from '../sync/index.ts';
import { Segments } from './segments.ts';
import { hopRecord } from '../../core/visits/testing/records.ts';

let db: Database;
beforeEach(async () => {
  globalThis.indexedDB = new IDBFactory();
  vi.resetModules();
  const { database } = await import('../sync/index.ts');
  db = await database();
});

const day = 86_400_000;
const start = Date.UTC(2026, 5, 1, 8);
/** Ten requests a day, each of a visitor of its own, and a lost record after each day. */
const journalOf = (days: number): JournalRecord[] => {
  const records: JournalRecord[] = [];
  for (let n = 0; n < days; n++) {
    for (let i = 0; i < 10; i++) {
      const at = start + n * day + i * 60_000;
      records.push(
        hopRecord({
          seq: records.length + 1,
          at,
          click: clickId(at, new Uint8Array(10).fill(i)),
          link: i % 2 === 0 ? 'lnk_a' : 'lnk_b',
          source: `s${n}`,
          visitor: `${String(n).padStart(8, '0')}${String(i).padStart(8, '0')}`,
        }),
      );
    }
    records.push({
      seq: records.length + 1,
      kind: 'lost',
      at: start + n * day,
      until: start + n * day,
      count: n,
      why: 'limit',
      links: { lnk_a: n },
    });
  }
  return records;
};
const clicks = ({ journal: { columns } }: Dataset): string[] =>
  Array.from({ length: columns.rows }, (_, row) => columns.click(row));
/** A journal that takes some records and stores them, a few at a time. */
const stored = async (records: readonly JournalRecord[], at = 7) => {
  const data = new Dataset();
  const segments = new Segments();
  await segments.load(db, data);
  for (let from = 0; from < records.length; from += at) {
    const some = records.slice(from, from + at);
    data.add(some);
    await segments.keep(db, data, some);
  }
  return { data, segments };
};
const loaded = async () => {
  const data = new Dataset();
  const segments = new Segments();
  await segments.load(db, data);
  return { data, segments };
};
const seen = (data: Dataset) => ({ clicks: clicks(data), last: data.last, lost: data.journal.lost.length });

describe('the journal in the database', () => {
  it('comes back as it was, in however many pieces it was stored', async () => {
    // Forty times: more pieces than may lie there, so that they were put together meanwhile.
    const { data } = await stored(journalOf(26), 7);
    expect(seen((await loaded()).data)).toEqual(seen(data));
    expect(await db.count('segments')).toBeLessThan(25);
  });

  it('goes on where another window stopped, with no gap and no repeat', async () => {
    const records = journalOf(6);
    const first = await stored(records.slice(0, 30));
    const second = await loaded();
    second.data.add(records.slice(30));
    await second.segments.keep(db, second.data, records.slice(30));
    // The first window catches up from the database alone.
    await first.segments.load(db, first.data);
    expect(seen(first.data)).toEqual(seen(second.data));
    expect(first.data.last).toBe(records.length);
  });

  it('with rolled-up days is the same after it was closed, and goes on', async () => {
    const records = journalOf(10);
    const { data, segments } = await stored(records);
    data.rollUp(start + 4 * day - (start % day));
    await segments.replace(db, data);
    const again = await loaded();
    expect(seen(again.data)).toEqual(seen(data));
    expect(again.data.journal.columns.rows).toBe(60);
    expect(again.data.rolledUp).toEqual(data.rolledUp);
    expect(again.data.rolledUp.counts.reduce((sum, { count }) => sum + count, 0)).toBe(40);
    const more = journalOf(11).slice(records.length);
    again.data.add(more);
    await again.segments.keep(db, again.data, more);
    expect((await loaded()).data.journal.columns.rows).toBe(70);
    // Rolling up a day more adds to what was rolled up.
    again.data.rollUp(start + 5 * day - (start % day));
    await again.segments.replace(db, again.data);
    const { data: last } = await loaded();
    const { rolledUp } = last;
    const { columns } = last.journal;
    expect([columns.rows, rolledUp.counts.reduce((sum, { count }) => sum + count, 0)]).toEqual([60, 50]);
  });

  it('stays whole where the database does not take the daily counts', async () => {
    const { data, segments } = await stored(journalOf(3));
    const before = seen(data);
    data.rollUp(start + 2 * day - (start % day));
    // What cannot be cloned is refused in the middle of the transaction.
    data.rolledUp = { ...data.rolledUp, counts: [(() => 0) as never] };
    await expect(segments.replace(db, data)).rejects.toThrow();
    expect(seen((await loaded()).data)).toEqual(before);
  });

  it('is forgotten altogether', async () => {
    const { segments } = await stored(journalOf(3));
    await segments.clear(db);
    const { data } = await loaded();
    expect([data.journal.columns.rows, data.last, data.rolledUp.before]).toEqual([0, 0, 0]);
  });
});
