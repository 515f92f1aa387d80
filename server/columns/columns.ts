import { once } from 'node:events';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { Worker } from 'node:worker_threads';
import type { JournalRecord } from '#core/visits';
import { segmentRows } from '#core/visits';
import { builtFile } from '../built.ts';
import type { JournalPart } from './columnFiles.ts';
import { columnsFolder, madeParts, removeStrangeParts } from './columnFiles.ts';

export interface ColumnsParts {
  readonly dataDir: string;
  /** Tells this journal from others, and from itself before something of it was removed. */
  readonly of: () => string;
  /** The newest record of the journal. */
  readonly seq: () => number;
  /** The records of the journal after one, as lines. */
  readonly read: (after: number) => Readable;
  readonly log: (message: string, detail: object) => void;
}

/** The first record of lines. */
const firstOf = async (lines: Readable): Promise<JournalRecord | undefined> => {
  const decoder = new TextDecoder();
  let text = '';
  for await (const piece of lines) {
    text += decoder.decode(piece as Buffer, { stream: true }); // as the journal gives them
    const end = text.indexOf('\n');
    if (end >= 0) return JSON.parse(text.slice(0, end)) as JournalRecord; // written by the journal
  }
  return undefined;
};

/**
 * Keeps the requests of the journal as columns beside it, for browsers that fetch all of them: made in a thread of its own, a segment
 * once enough requests for it have come.
 */
export class Columns {
  readonly #parts: ColumnsParts;
  #of = '';
  #made: readonly JournalPart[] = [];
  #making: Promise<void> | undefined;
  #worker: Worker | undefined;
  /** The newest record when parts were made last. */
  #seenUpTo = 0;

  constructor(parts: ColumnsParts) {
    this.#parts = parts;
  }

  /**
   * Lets go what was made of a journal that went on differently since; to be called before anything is asked. Never fails: where the
   * journal cannot be read there, what was made of it goes too.
   */
  async open(): Promise<void> {
    const { dataDir, of, read, log } = this.#parts;
    await removeStrangeParts(dataDir, of(), async (seq) => {
      try {
        const record = await firstOf(read(seq - 1));
        return record?.seq === seq ? record : undefined;
      } catch (error) {
        log('the journal could not be read where its columns end', { seq, error: String(error) });
        return undefined;
      }
    });
  }

  /** The parts there are of the journal as it is now, the oldest first. */
  get parts(): readonly JournalPart[] {
    const of = this.#parts.of();
    if (of !== this.#of) {
      this.#of = of;
      this.#made = madeParts(this.#parts.dataDir, of);
      this.#seenUpTo = this.#made.at(-1)?.last ?? 0;
    }
    return this.#made;
  }

  /** Path of a file of a part; undefined for one that is none of the journal as it is now. */
  pathOf(name: string): string | undefined {
    const known = this.parts.some((part) => name === `${part.name}.fhs` || name === `${part.name}.ndjson`);
    return known ? join(columnsFolder(this.#parts.dataDir), name) : undefined;
  }

  /** Makes what is missing, unless too little has come since for a segment. Never fails: without it a journal is read as text. */
  async make(): Promise<void> {
    // Which journal it is now is seen first.
    if (this.parts.length > 0 && this.#parts.seq() - this.#seenUpTo < segmentRows) return;
    if (this.#parts.seq() < segmentRows) return;
    this.#making ??= this.#inWorker().finally(() => {
      this.#making = undefined;
      this.#worker = undefined;
    });
    await this.#making;
  }

  async #inWorker(): Promise<void> {
    const { dataDir, seq, log } = this.#parts;
    const [of, upTo] = [this.#of, seq()];
    try {
      this.#worker = new Worker(builtFile('columns.js'), { workerData: { dataDir, of } });
      const [made] = (await once(this.#worker, 'message')) as [readonly JournalPart[]]; // an error of the worker rejects this
      await this.#worker.terminate();
      // Something may have been removed meanwhile; then what was made is of a journal that is no more.
      if (of === this.#parts.of()) [this.#made, this.#seenUpTo] = [made, upTo];
    } catch (error) {
      log('columns of the journal could not be made', { error: String(error) });
    }
  }

  async close(): Promise<void> {
    await this.#worker?.terminate();
  }
}
