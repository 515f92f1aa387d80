import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it } from 'vitest';
import type { Row, Waiting } from './database.ts';
import { openStorage } from './database.ts';
import { makeRecordStore } from './recordStore.ts';

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
});

const row = (record: string): Row => ({ record, kind: 'link', value: { id: record, title: 'Kit' } });
const open = () => {
  const storage = openStorage('test');
  const rows = new Map<string, Row>();
  const waiting = new Map<string, Waiting>();
  return { storage, store: makeRecordStore({ storage, rows, waiting }) };
};
/** What a browser that is opened anew finds. */
const found = async (): Promise<string[]> => {
  const { store } = open();
  await store.load();
  return [...store.rows.keys()];
};

describe('the records of a browser', () => {
  it('are written as a whole: 2,000 links of which one cannot be stored are none', async () => {
    const { store } = open();
    await store.write(() => [{ record: 'lnk_first', row: row('lnk_first') }]);
    const many = Array.from({ length: 2000 }, (_, n) => ({ record: `lnk_${n}`, row: row(`lnk_${n}`) }));
    const bad = { record: 'lnk_bad', row: { ...row('lnk_bad'), value: { cannot: () => 'be cloned' } } };
    await expect(store.write(() => [...many, bad])).rejects.toThrow(/^Nothing was saved/);
    expect([...store.rows.keys()]).toEqual(['lnk_first']);
    expect(await found()).toEqual(['lnk_first']);
    await store.write(() => many);
    expect(await found()).toHaveLength(2001);
  });

  it('go back into a storage that was emptied, before anything else is written', async () => {
    const { storage, store } = open();
    store.listen();
    await store.write(() => [{ record: 'lnk_a', row: row('lnk_a') }], { version: 7 });
    (await storage.database()).close();
    await new Promise<void>((resolve) => {
      indexedDB.deleteDatabase('test').onsuccess = () => resolve();
    });
    await store.write(() => [{ record: 'lnk_b', row: row('lnk_b') }]);
    const again = open();
    expect((await again.store.load()).version).toBe(7);
    expect([...again.store.rows.keys()]).toEqual(['lnk_a', 'lnk_b']);
  });

  it('are in memory only once they are on the disk', async () => {
    const { store } = open();
    const written = store.write(() => [{ record: 'lnk_a', row: row('lnk_a') }]);
    expect(store.rows.size).toBe(0);
    await written;
    expect(store.rows.size).toBe(1);
  });
});
