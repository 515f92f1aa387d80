import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { clickId } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import type { Database } from './database.ts';
import { HeldJournal } from './heldJournal.ts';
import { Segments } from './segments.ts';

let db: Database;
beforeEach(async () => {
  globalThis.indexedDB = new IDBFactory();
  vi.resetModules();
  const { database } = await import('./database.ts');
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
      records.push({
        seq: records.length + 1,
        kind: 'hop',
        at,
        click: clickId(at, new Uint8Array(10).fill(i)),
        link: i % 2 === 0 ? 'lnk_a' : 'lnk_b',
        edition: 1,
        branch: 'everyone',
        source: `s${n}`,
        status: 307,
        method: 'GET',
        host: '',
        ua: 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
        visitor: `${String(n).padStart(8, '0')}${String(i).padStart(8, '0')}`,
        country: '',
        device: 'phone',
        from: '',
        query: '',
        lang: '',
        prefetch: false,
        test: false,
      });
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
const clicks = ({ columns }: HeldJournal): string[] =>
  Array.from({ length: columns.rows }, (_, row) => columns.click(row));
/** A journal that takes some records and stores them, a few at a time. */
const stored = async (records: readonly JournalRecord[], at = 7) => {
  const held = new HeldJournal();
  const segments = new Segments();
  await segments.load(db, held);
  for (let from = 0; from < records.length; from += at) {
    const some = records.slice(from, from + at);
    held.add(some);
    await segments.keep(db, held, some);
  }
  return { held, segments };
};
const loaded = async () => {
  const held = new HeldJournal();
  const segments = new Segments();
  await segments.load(db, held);
  return { held, segments };
};
const seen = (held: HeldJournal) => ({ clicks: clicks(held), last: held.last, lost: held.lost.length });

describe('the journal in the database', () => {
  it('comes back as it was, in however many pieces it was stored', async () => {
    // Forty times: more pieces than may lie there, so that they were put together meanwhile.
    const { held } = await stored(journalOf(26), 7);
    expect(seen((await loaded()).held)).toEqual(seen(held));
    expect(await db.count('segments')).toBeLessThan(25);
  });

  it('goes on where another window stopped, with no gap and no repeat', async () => {
    const records = journalOf(6);
    const first = await stored(records.slice(0, 30));
    const second = await loaded();
    second.held.add(records.slice(30));
    await second.segments.keep(db, second.held, records.slice(30));
    // The first window catches up from the database alone.
    await first.segments.load(db, first.held);
    expect(seen(first.held)).toEqual(seen(second.held));
    expect(first.held.last).toBe(records.length);
  });

  it('with old days as sums is the same after it was closed, and goes on', async () => {
    const records = journalOf(10);
    const { held, segments } = await stored(records);
    held.thin(start + 4 * day - (start % day), 'UTC');
    await segments.replace(db, held);
    const again = await loaded();
    expect(seen(again.held)).toEqual(seen(held));
    expect(again.held.columns.rows).toBe(60);
    expect(again.held.summed).toEqual(held.summed);
    expect(again.held.summed.sums.reduce((sum, { count }) => sum + count, 0)).toBe(40);
    const more = journalOf(11).slice(records.length);
    again.held.add(more);
    await again.segments.keep(db, again.held, more);
    expect((await loaded()).held.columns.rows).toBe(70);
    // Summing a day more adds to what was summed.
    again.held.thin(start + 5 * day - (start % day), 'UTC');
    await again.segments.replace(db, again.held);
    const { summed, columns } = (await loaded()).held;
    expect([columns.rows, summed.sums.reduce((sum, { count }) => sum + count, 0)]).toEqual([60, 50]);
  });

  it('stays whole where the database does not take the sums', async () => {
    const { held, segments } = await stored(journalOf(3));
    const before = seen(held);
    held.thin(start + 2 * day - (start % day), 'UTC');
    // What cannot be cloned is refused in the middle of the transaction.
    held.summed = { ...held.summed, sums: [(() => 0) as never] };
    await expect(segments.replace(db, held)).rejects.toThrow();
    expect(seen((await loaded()).held)).toEqual(before);
  });

  it('is forgotten altogether', async () => {
    const { segments } = await stored(journalOf(3));
    await segments.clear(db);
    const { held } = await loaded();
    expect([held.columns.rows, held.last, held.summed.before]).toEqual([0, 0, 0]);
  });
});
