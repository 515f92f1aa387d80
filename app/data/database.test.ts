import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { openDB } from 'idb';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Database } from './database.ts';

beforeEach(() => {
  // Every test has a browser of its own.
  globalThis.indexedDB = new IDBFactory();
  vi.resetModules();
});

const stores = ['journal', 'meta', 'outbox', 'records', 'segments', 'summed'];
const record = { record: 'lnk_a', kind: 'link' as const, value: { id: 'lnk_a', slug: 'saturn' }, base: 3 };

describe('the browser’s database', () => {
  it('has every store when it is new', async () => {
    const { database } = await import('./database.ts');
    expect([...(await database()).objectStoreNames]).toEqual(stores);
  });

  it.each([1, 2, 3, 4])('of version %i opens with what a person made in it', async (version) => {
    const { database, migrations } = await import('./database.ts');
    const old = await openDB('fernhop', version, {
      upgrade: (db) => {
        for (const migrate of migrations.slice(0, version)) migrate(db as unknown as Database);
      },
    });
    await old.put('records', record);
    await old.put('outbox', { record: 'lnk_a', change: { id: 'chg_1' }, sent: [] });
    await old.put('journal', { seq: 7, kind: 'lost', at: 1, count: 2 });
    old.close();
    const now = await database();
    expect([...now.objectStoreNames]).toEqual(stores);
    expect(await now.get('records', 'lnk_a')).toEqual(record);
    expect(await now.getAllKeys('outbox')).toEqual(['lnk_a']);
    // Before requests were kept as columns the journal held them too; it is fetched anew then.
    expect(await now.count('journal')).toBe(version < 4 ? 0 : 1);
  });

  it('lets go for another window with a newer one', async () => {
    const { database } = await import('./database.ts');
    await database();
    const newer = await openDB('fernhop', 99);
    expect(newer.version).toBe(99);
    newer.close();
  });
});
