import type { JournalRecord, StoredRows } from '#core/visits';
import type { Dataset } from '#core/queries';
import { isVisit, segmentRows, VisitColumns } from '#core/visits';
import type { Database } from '../sync/index.ts';
import { readMeta } from '../sync/index.ts';

/** How many pieces of one segment may lie in the database before they are put together. */
const mostPieces = 24;

/** What is stored is not what was stored: somebody emptied this browser's storage. */
export class StorageVanished extends Error {}

/** Where the rows of a journal stand in the database. */
export class Segments {
  /** The newest record that is stored, as far as this window knows. */
  #stored = 0;
  /** First rows of the pieces of the segment that is not full, and what each dictionary held before it. */
  #pieces: number[] = [];
  #knownBefore = new VisitColumns().known();
  #known = new VisitColumns().known();
  #rows = 0;

  /** Reads what is stored beyond what memory holds. */
  async load(db: Database, data: Dataset): Promise<void> {
    const { columns } = data.journal;
    const begin = Math.floor(this.#rows / segmentRows) * segmentRows;
    const tx = db.transaction(['segments', 'journal', 'meta', 'rolledUp']);
    // A piece may have been put together with others since; rows that are held already are passed over.
    const [pieces, records, last, rolledUp] = await Promise.all([
      tx.objectStore('segments').getAll(IDBKeyRange.lowerBound(begin)),
      tx.objectStore('journal').getAll(IDBKeyRange.lowerBound(data.last, true)),
      readMeta(tx.objectStore('meta'), 'seq'),
      tx.objectStore('rolledUp').get('old'),
    ]);
    await tx.done;
    if (rolledUp) data.rolledUp = rolledUp;
    for (const { first, stored } of pieces) {
      if (first % segmentRows === 0) {
        this.#pieces = [];
        if (first >= columns.rows) this.#knownBefore = columns.known();
      }
      this.#pieces.push(first);
      columns.take(stored, Math.max(0, columns.rows - first));
    }
    this.#rows = columns.rows;
    this.#known = columns.known();
    data.addStored(records);
    this.#stored = last ?? 0; // an empty browser has none
    data.rowsCame(this.#stored);
  }

  /**
   * Keeps a journal in the place of what is stored, in which old days became counts or the newest records are no more; all of
   * it, or nothing.
   */
  async replace(db: Database, data: Dataset): Promise<void> {
    const before = [this.#rows, this.#known, this.#pieces, this.#knownBefore, this.#stored] as const;
    this.reset();
    this.#stored = before[4];
    try {
      await this.keep(db, data, [], true);
    } catch (error) {
      [this.#rows, this.#known, this.#pieces, this.#knownBefore, this.#stored] = before;
      throw error;
    }
  }

  /**
   * Keeps records that were just put into memory: all of them, or none when the database does not take them.
   *
   * @param anew in the place of every row and sum that is stored, and of what is beyond the newest record
   * @throws StorageVanished where the storage was emptied since; then nothing is kept
   */
  async keep(db: Database, data: Dataset, records: readonly JournalRecord[], anew = false): Promise<void> {
    const { columns } = data.journal;
    const tx = db.transaction(['segments', 'journal', 'meta', 'rolledUp'], 'readwrite');
    const segments = tx.objectStore('segments');
    let [rows, known] = [this.#rows, this.#known];
    let pieces = [...this.#pieces];
    let before = this.#knownBefore;
    const put = (first: number, stored: StoredRows) => segments.put({ first, stored });
    const writes: Promise<unknown>[] = [];
    try {
      const stored = (await readMeta(tx.objectStore('meta'), 'seq')) ?? 0; // an empty browser has none
      if (stored !== this.#stored) throw new StorageVanished();
      if (anew) {
        writes.push(segments.clear());
        writes.push(tx.objectStore('journal').delete(IDBKeyRange.lowerBound(data.last, true)));
        writes.push(tx.objectStore('rolledUp').put(data.rolledUp, 'old'));
      }
      while (rows < columns.rows) {
        const begin = Math.floor(rows / segmentRows) * segmentRows;
        const end = Math.min(columns.rows, begin + segmentRows);
        if (rows === begin) {
          pieces = [];
          before = known;
        }
        if (pieces.length > 0 && (pieces.length >= mostPieces || end === begin + segmentRows)) {
          for (const piece of pieces) writes.push(segments.delete(piece));
          pieces = [begin];
          writes.push(put(begin, columns.store(begin, end, before)));
        } else {
          pieces.push(rows);
          writes.push(put(rows, columns.store(rows, end, known)));
        }
        rows = end;
        known = columns.known();
      }
      for (const record of records) if (!isVisit(record)) writes.push(tx.objectStore('journal').put(record));
      writes.push(tx.objectStore('meta').put(data.last, 'seq'));
    } catch (error) {
      // What was asked of the transaction before would else be carried out without the rest.
      try {
        tx.abort();
      } catch {
        // it has ended already
      }
      await Promise.allSettled([...writes, tx.done]);
      throw error;
    }
    await Promise.all([...writes, tx.done]);
    [this.#rows, this.#known, this.#pieces, this.#knownBefore] = [rows, known, pieces, before];
    this.#stored = data.last;
  }

  /** Forgets everything that is stored. */
  async clear(db: Database): Promise<void> {
    const tx = db.transaction(['segments', 'journal', 'meta', 'rolledUp'], 'readwrite');
    await Promise.all([
      tx.objectStore('segments').clear(),
      tx.objectStore('rolledUp').clear(),
      tx.objectStore('journal').clear(),
      tx.objectStore('meta').delete('seq'),
      tx.done,
    ]);
    this.reset();
  }

  /** Begins anew in memory, after another window cleared what is stored. */
  reset(): void {
    this.#pieces = [];
    this.#knownBefore = new VisitColumns().known();
    this.#known = new VisitColumns().known();
    this.#rows = 0;
    this.#stored = 0;
  }
}
