import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { openDB } from 'idb';
import { beforeEach, describe, expect, it, vi } from 'vitest';

beforeEach(() => {
  // Every test has a browser of its own.
  globalThis.indexedDB = new IDBFactory();
  vi.resetModules();
});

const stores = ['journal', 'lost', 'meta', 'outbox', 'records', 'rolledUp', 'segments'];

describe('the browser’s database', () => {
  it('has every store when it is new', async () => {
    const { database, databaseFormat } = await import('./database.ts');
    const db = await database();
    expect([[...db.objectStoreNames], db.version]).toEqual([stores, databaseFormat]);
  });

  it.each([1, 5])('of the older format %i is refused with what to do, and left as it is', async (format) => {
    const old = await openDB('fernhop', format, {
      upgrade: (db) => void db.createObjectStore('outbox', { keyPath: 'record' }),
    });
    await old.put('outbox', { record: 'lnk_a' });
    old.close();
    const { database } = await import('./database.ts');
    await expect(database()).rejects.toThrow(
      new RegExp(`is in format ${format}, and Fernhop reads format 7 alone. Clear this site’s data`),
    );
    const same = await openDB('fernhop');
    expect([same.version, await same.getAllKeys('outbox')]).toEqual([format, ['lnk_a']]);
    same.close();
  });

  it('lets go for another window with a newer one', async () => {
    const { database } = await import('./database.ts');
    await database();
    const newer = await openDB('fernhop', 99);
    expect(newer.version).toBe(99);
    newer.close();
  });
});
