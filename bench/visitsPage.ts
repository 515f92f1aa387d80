import { isbot } from 'isbot';
import type { HopRecord, StoredRows } from '#core/visits';
import { Classification, defaultRules, outcomeNumber, segmentRows, VisitColumns } from '#core/visits';
import { plainOutcomes } from '../core/visits/testing/plainClassifier.ts';
import { hops } from './world.ts';

/** Runs in a worker of a real browser: keeps requests in idb both ways, and measures how each answers. */
interface Ask {
  /** `fill both` keeps them as objects too, to compare with. */
  readonly does: 'fill' | 'fill both' | 'columns' | 'plain';
  readonly count: number;
}

const open = (name: string): Promise<IDBDatabase> =>
  new Promise((resolve, reject) => {
    const request = indexedDB.open(name, 1);
    request.onupgradeneeded = () => {
      request.result.createObjectStore('segments');
      request.result.createObjectStore('records');
    };
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error ?? new Error('no database'));
  });
const all = <T>(db: IDBDatabase, store: string): Promise<T[]> =>
  new Promise((resolve, reject) => {
    const request = db.transaction(store).objectStore(store).getAll();
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error ?? new Error('not read'));
  });
const write = (db: IDBDatabase, store: string, put: (into: IDBObjectStore) => void): Promise<void> =>
  new Promise((resolve, reject) => {
    const tx = db.transaction(store, 'readwrite');
    put(tx.objectStore(store));
    tx.oncomplete = () => resolve();
    tx.onerror = () => reject(tx.error ?? new Error('not written'));
  });

const fill = async (count: number, plain: boolean): Promise<void> => {
  const db = await open(`bench-${count}`);
  const columns = new VisitColumns();
  let known = columns.known();
  let records: HopRecord[] = [];
  const flush = async () => {
    const batch = records;
    records = [];
    await write(db, 'records', (into) => into.put(batch, batch[0]?.seq ?? 0));
  };
  for (const hop of hops(count)) {
    columns.add(hop);
    if (plain) records.push(hop);
    if (records.length === 5000) await flush();
    if (columns.rows % segmentRows === 0 || columns.rows === count) {
      const first = Math.floor((columns.rows - 1) / segmentRows) * segmentRows;
      const stored = columns.store(first, columns.rows, known);
      known = columns.known();
      await write(db, 'segments', (into) => into.put(stored, first));
    }
  }
  if (records.length > 0) await flush();
  db.close();
};

let kept: unknown;

const readColumns = async (count: number) => {
  const db = await open(`bench-${count}`);
  const begin = performance.now();
  const columns = new VisitColumns();
  for (const stored of await all<StoredRows>(db, 'segments')) columns.take(stored);
  const loaded = performance.now();
  const classification = new Classification(columns, isbot, defaultRules);
  classification.update();
  const counted = performance.now();
  const again = new Classification(columns, isbot, { ...defaultRules, repeatMinutes: 10 });
  again.update();
  const changed = performance.now();
  kept = [columns, again];
  db.close();
  return {
    rows: columns.rows,
    counted: classification.counts[outcomeNumber.counted],
    load: loaded - begin,
    first: counted - begin,
    classification: changed - counted,
  };
};

const readPlain = async (count: number) => {
  const db = await open(`bench-${count}`);
  const begin = performance.now();
  const records = (await all<HopRecord[]>(db, 'records')).flat();
  const loaded = performance.now();
  const count1 = () => {
    const byClick = new Map<string, HopRecord>();
    for (const record of records) byClick.set(record.click, record);
    const counted = plainOutcomes(records, isbot, defaultRules).filter((one) => one === 'counted').length;
    return { counted, byClick };
  };
  const result = count1();
  const first = performance.now();
  kept = [records, result, count1()];
  const changed = performance.now();
  db.close();
  return {
    rows: records.length,
    counted: result.counted,
    load: loaded - begin,
    first: first - begin,
    classification: changed - first,
  };
};

addEventListener('message', (event: MessageEvent<Ask>) => {
  const { does, count } = event.data;
  kept = undefined;
  const work = does.startsWith('fill')
    ? fill(count, does === 'fill both')
    : does === 'columns'
      ? readColumns(count)
      : readPlain(count);
  work.then(
    (answer) => postMessage({ answer, held: kept !== undefined }),
    (error: unknown) => postMessage({ error: String(error) }),
  );
});
