import type { JournalRecord, StoredRows } from '#core/visits';
import { Columns, segmentRows } from '#core/visits';
import type { Database } from './database.ts';
import type { HeldJournal } from './heldJournal.ts';
import { isVisit } from './heldJournal.ts';

/** How many pieces of one segment may lie in the database before they are put together. */
const mostPieces = 24;

/** Where the rows of a held journal stand in the database. */
export class Segments {
  /** First rows of the pieces of the segment that is not full, and what each dictionary held before it. */
  #pieces: number[] = [];
  #knownBefore = new Columns().known();
  #known = new Columns().known();
  #rows = 0;

  /** Reads what is stored beyond what memory holds. */
  async load(db: Database, held: HeldJournal): Promise<void> {
    const { columns } = held;
    const begin = Math.floor(this.#rows / segmentRows) * segmentRows;
    const tx = db.transaction(['segments', 'journal', 'meta', 'summed']);
    // A piece may have been put together with others since; rows that are held already are passed over.
    const [pieces, records, last, summed] = await Promise.all([
      tx.objectStore('segments').getAll(IDBKeyRange.lowerBound(begin)),
      tx.objectStore('journal').getAll(IDBKeyRange.lowerBound(held.last, true)),
      tx.objectStore('meta').get('seq'),
      tx.objectStore('summed').get('old'),
    ]);
    await tx.done;
    if (summed) held.summed = summed;
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
    held.addStored(records);
    held.rowsCame(typeof last === 'number' ? last : 0);
  }

  /** Keeps a journal in which old days became sums, in the place of what is stored; all of it, or nothing. */
  async replace(db: Database, held: HeldJournal): Promise<void> {
    const before = [this.#rows, this.#known, this.#pieces, this.#knownBefore] as const;
    this.reset();
    try {
      await this.keep(db, held, [], true);
    } catch (error) {
      [this.#rows, this.#known, this.#pieces, this.#knownBefore] = before;
      throw error;
    }
  }

  /**
   * Keeps records that were just put into memory: all of them, or none when the database does not take them.
   *
   * @param anew in the place of every row and sum that is stored
   */
  async keep(
    db: Database,
    held: HeldJournal,
    records: readonly JournalRecord[],
    anew = false,
  ): Promise<void> {
    const { columns } = held;
    const tx = db.transaction(['segments', 'journal', 'meta', 'summed'], 'readwrite');
    const segments = tx.objectStore('segments');
    let [rows, known] = [this.#rows, this.#known];
    let pieces = [...this.#pieces];
    let before = this.#knownBefore;
    const put = (first: number, stored: StoredRows) => segments.put({ first, stored });
    const writes: Promise<unknown>[] = [];
    try {
      if (anew) {
        writes.push(segments.clear());
        writes.push(tx.objectStore('summed').put(held.summed, 'old'));
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
      writes.push(tx.objectStore('meta').put(held.last, 'seq'));
    } catch (error) {
      // What was asked of the transaction before would else be carried out without the rest.
      tx.abort();
      await Promise.allSettled([...writes, tx.done]);
      throw error;
    }
    await Promise.all([...writes, tx.done]);
    [this.#rows, this.#known, this.#pieces, this.#knownBefore] = [rows, known, pieces, before];
  }

  /** Forgets everything that is stored. */
  async clear(db: Database): Promise<void> {
    const tx = db.transaction(['segments', 'journal', 'meta', 'summed'], 'readwrite');
    await Promise.all([
      tx.objectStore('segments').clear(),
      tx.objectStore('summed').clear(),
      tx.objectStore('journal').clear(),
      tx.objectStore('meta').delete('seq'),
      tx.done,
    ]);
    this.reset();
  }

  /** Begins anew in memory, after another window cleared what is stored. */
  reset(): void {
    this.#pieces = [];
    this.#knownBefore = new Columns().known();
    this.#known = new Columns().known();
    this.#rows = 0;
  }
}
