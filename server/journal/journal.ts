import type { FileHandle } from 'node:fs/promises';
import { mkdir, open, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import type { Hash } from 'node:crypto';
import { createHash } from 'node:crypto';
import type { KeptSeal } from '#core/catalogue';
import type { DailyCount, JournalDraft, JournalRecord } from '#core/visits';
import { replaceFile, syncFolder } from '../dataDir.ts';
import type { RemovedPart } from './chain.ts';
import { Chain } from './chain.ts';
import { readCounts } from './counts.ts';
import type { JournalFile, Recovered, SealedPart } from './files.ts';
import { beginFile, recover } from './files.ts';
import { linesAfter } from './reading.ts';
import { Sealing } from './sealing.ts';
import { Gathered } from './gathered.ts';

/** A record as JSON, less its first brace and its `seq`; or what gives it when its line is made. */
export type Rest = string | { rest(): string };

/** Links that are told by name in a record of what was lost; the rest share one entry. */
const mostLostLinks = 100;

/** True for a file that is what this journal wrote: only such are written to and sealed. */
const isWritten = ({ damaged, isExcerpt }: JournalFile): boolean => damaged === undefined && !isExcerpt;

type Done = (error?: Error) => void;

/** The record was not taken, not even into memory: whoever sent it is to send it again. */
export class NotTaken extends Error {}

/** Records synced together, as lines. */
export interface Batch {
  readonly first: number;
  readonly last: number;
  readonly lines: string;
}

export interface JournalOptions {
  /** Most hops that wait for the disk; more are dropped and counted. */
  readonly mostWaiting?: number;
  /** Most bytes of lines that wait for the disk; beyond them hops are dropped and postbacks refused. */
  readonly mostBytes?: number;
  /** Most bytes of one file. */
  readonly fileBytes?: number;
  /** How often the file that is written to is sealed, in milliseconds. */
  readonly sealMs?: number;
  readonly now?: () => number;
  readonly log?: (message: string, detail: object) => void;
}

/** Longest a hop waits before its batch is written, in milliseconds. */
const gatherMs = 50;
const retryMs = 500;
/** Records that are made text together: alike work at once is quick, and too much of it at once holds requests up. */
const sliceRecords = 32;

/**
 * The append-only record of requests and postbacks. Nothing is served or streamed beyond the last synced
 * `seq`; after a failed write the file is cut back, after a failed sync a new one is begun.
 */
export class Journal {
  readonly identity: string;
  readonly #folder: string;
  readonly #files: JournalFile[];
  readonly #chain: Chain;
  /** Of the last file, as far as it is synced. */
  #hash: Hash;
  readonly #sealing: Sealing;
  #sealTimer: NodeJS.Timeout | undefined;
  readonly #options: Required<JournalOptions>;
  readonly #listeners = new Set<(batch: Batch) => void>();
  #handle: FileHandle | undefined;
  #synced: number;
  /** The last `seq` a record was given; it keeps it, however often its batch has to be written. */
  #given: number;
  /** Records that are no lines yet. */
  #unwritten: Rest[] = [];
  #filling = new Gathered();
  /** The batch the disk has to take next; empty when there is none. */
  #inHand = new Gathered();
  /** Those who wait for a record of the batch in hand, and those who wait for one that comes after it. */
  #writtenWaiting: Done[] = [];
  #waiting: Done[] = [];
  /** Records that wait until there is room again for more than postbacks. */
  #deferred: Rest[] = [];
  #onlyKept = false;
  #lost: { count: number; at: number; until: number; links: Record<string, number> } | undefined;
  #timer: NodeJS.Timeout | undefined;
  #working: Promise<void> | undefined;
  #failure: Error | undefined;
  #closed = false;

  private constructor(
    folder: string,
    identity: string,
    chain: Chain,
    { files, last, hash, unsealed }: Recovered,
    options: Required<JournalOptions>,
  ) {
    this.#folder = folder;
    this.identity = identity;
    this.#chain = chain;
    this.#files = files;
    this.#hash = hash;
    this.#sealing = new Sealing(chain, unsealed, options);
    this.#mustBegin = files.at(-1)?.damaged !== undefined || files.at(-1)?.isExcerpt === true;
    this.#synced = last;
    this.#given = last;
    this.#options = options;
  }

  /**
   * Opens the journal in a folder and repairs what a crash left.
   *
   * @param newIdentity names the journal when the folder is new
   */
  static async open(
    folder: string,
    newIdentity: string,
    options: JournalOptions = {},
  ): Promise<{ journal: Journal; version: number }> {
    const full = {
      mostWaiting: 50_000,
      mostBytes: 64 * 1024 * 1024,
      fileBytes: 64 * 1024 * 1024,
      sealMs: 10 * 60_000,
      now: Date.now,
      log: () => undefined,
      ...options,
    };
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const path = join(folder, 'identity');
    let identity = await readFile(path, 'utf8').then(
      (text) => text.trim(),
      () => '',
    );
    if (identity === '') {
      identity = newIdentity;
      await replaceFile(path, `${identity}\n`);
    }
    const chain = await Chain.open(folder, identity);
    const recovered = await recover(folder, chain);
    for (const cut of recovered.cuts) full.log('cut the end of a journal file', cut);
    const journal = new Journal(folder, identity, chain, recovered, full);
    for (const damage of journal.damages) full.log('a journal file is not what was sealed', damage);
    // What a crash left unsealed is sealed now.
    await journal.seal();
    journal.#sealTimer = setInterval(() => void journal.seal(), full.sealMs);
    journal.#sealTimer.unref();
    return { journal, version: recovered.version };
  }

  /** Files that are not what was sealed, and how. `npm run verify` tells more. */
  get damages(): { readonly file: string; readonly how: string }[] {
    return this.#files.flatMap(({ name, damaged }) =>
      damaged === undefined ? [] : [{ file: name, how: damaged }],
    );
  }

  /** The newest seal; undefined while there is none. */
  get newestSeal(): KeptSeal | undefined {
    return this.#chain.newest;
  }

  /** True for a seal that is one of this journal's. */
  knowsSeal(hash: string): boolean {
    return this.#chain.has(hash);
  }

  /**
   * Seals all that is synced now, and gives the newest seal. Where the disk does not take it, it is tried again with the
   * next one.
   */
  seal(): Promise<KeptSeal | undefined> {
    return this.#sealing.seal(() => {
      const file = this.#files.at(-1);
      const isSealed = file && file.bytes <= (this.#chain.sealOf(file.name)?.bytes ?? 0);
      return file && isWritten(file) && !isSealed ? this.#partOf(file) : undefined;
    });
  }

  /** The oldest files, whole and sealed, that were begun before a day (`2025-11-01`); undefined where there are none. */
  sealedBefore(
    day: string,
  ): { readonly files: string[]; readonly first: number; readonly last: number } | undefined {
    const files: JournalFile[] = [];
    for (const file of this.#files.slice(0, -1)) {
      if (file.isExcerpt) continue;
      const isWhole = isWritten(file) && this.#chain.sealOf(file.name)?.bytes === file.bytes;
      if (file.day >= day || !isWhole) break;
      files.push(file);
    }
    const [begin] = files;
    const last = files.at(-1) && this.#chain.sealOf(files.at(-1)?.name ?? '')?.last;
    return begin && last !== undefined
      ? { files: files.map(({ name }) => name), first: begin.first, last }
      : undefined;
  }

  /** The newest record whose file was removed by choice; 0 where none was. */
  get removedUntil(): number {
    return this.#chain.removals.at(-1)?.last ?? 0;
  }

  /** Before which moment requests are daily counts here, and those counts; a moment of 0 where none are. */
  async rolledUp(): Promise<{ readonly before: number; readonly counts: readonly DailyCount[] }> {
    const { removals } = this.#chain;
    return {
      before: removals.at(-1)?.until ?? 0,
      counts: await readCounts(this.#folder, removals),
    };
  }

  /** Removes files of which an excerpt was written: from here on that stands in their place. */
  async remove({
    files,
    first,
    last,
    before,
    kept,
    counts,
  }: {
    readonly files: readonly string[];
    readonly first: number;
    readonly last: number;
    readonly before: number;
    readonly kept: RemovedPart;
    readonly counts: RemovedPart;
  }): Promise<void> {
    await this.#chain.add({
      kind: 'removed',
      at: this.#options.now(),
      files: [...files],
      first,
      last,
      until: before,
      kept,
      counts,
    });
    const place = this.#files.findIndex(({ name }) => name === files[0]);
    this.#files.splice(place, files.length, {
      name: kept.file,
      first,
      bytes: kept.bytes,
      day: new Date(before - 1).toISOString().slice(0, 10),
      isExcerpt: true,
    });
    for (const file of files) await rm(join(this.#folder, file), { force: true });
    await syncFolder(this.#folder);
  }

  #partOf({ name, first, bytes }: JournalFile): SealedPart {
    return { file: name, first, last: this.#synced, bytes, sha256: this.#hash.copy().digest('hex') };
  }

  /** The last `seq` that is on disk. */
  get seq(): number {
    return this.#synced;
  }

  /** Why the disk does not take records at the moment; undefined while it does. */
  get failure(): Error | undefined {
    return this.#failure;
  }

  /** Takes a record without waiting for the disk. When too many wait it is dropped and counted. */
  append(draft: JournalDraft): void {
    this.appendRest(draft.at, JSON.stringify(draft).slice(1));
  }

  /**
   * The same for a record that is JSON already, or will be when its line is made; `at` is its time.
   *
   * @param link of a hop, so that those that are dropped are counted by link
   */
  appendRest(at: number, rest: Rest, link?: string): void {
    if (this.#waitingRecords >= this.#options.mostWaiting || this.#isFull) {
      this.#drop(at, link);
      return;
    }
    if (this.#onlyKept) {
      this.#deferred.push(rest);
      return;
    }
    this.#unwritten.push(rest);
    if (this.#unwritten.length >= sliceRecords) this.#writeOut();
    this.#soon(gatherMs);
  }

  #drop(at: number, link: string | undefined): void {
    this.#lost ??= { count: 0, at, until: at, links: {} };
    this.#lost.count += 1;
    this.#lost.until = at;
    if (link === undefined) return;
    const { links } = this.#lost;
    const name = Object.hasOwn(links, link) || Object.keys(links).length < mostLostLinks ? link : '';
    links[name] = (links[name] ?? 0) + 1;
  }

  /**
   * From now on only what is waited for (`keep`) is written, and the rest waits in memory; or all is written again. For a
   * disk whose last room is the postbacks'.
   */
  writeOnlyKept(only: boolean): void {
    this.#onlyKept = only;
    if (only || this.#deferred.length === 0) return;
    // One by one: so many at once do not fit into the arguments of a call.
    for (const rest of this.#deferred) this.#unwritten.push(rest);
    this.#deferred = [];
    this.#soon(gatherMs);
  }

  /**
   * Takes a record and resolves once it is on disk.
   *
   * @throws Error when the disk did not take it; it stays in memory and is written when the disk takes it again,
   * so that it is not lost where the sender does not try again; `NotTaken` when too much waits in memory already
   */
  keep(draft: JournalDraft): Promise<void> {
    if (this.#closed || this.#waitingRecords >= this.#options.mostWaiting * 1.2 || this.#isFull)
      return Promise.reject(new NotTaken(this.#failure?.message ?? 'The journal takes nothing more.'));
    return new Promise((resolve, reject) => {
      this.#unwritten.push(JSON.stringify(draft).slice(1));
      this.#waiting.push((error) => (error ? reject(error) : resolve()));
      if (this.#unwritten.length >= sliceRecords) this.#writeOut();
      this.#now();
    });
  }

  /**
   * Takes records that are JSON already, less their first brace and `seq`, and resolves once all are on disk.
   *
   * @throws Error as `keep` does
   */
  keepRests(rests: readonly string[]): Promise<void> {
    if (rests.length === 0) return Promise.resolve();
    if (this.#closed || this.#waitingRecords >= this.#options.mostWaiting || this.#isFull)
      return Promise.reject(new NotTaken(this.#failure?.message ?? 'The journal takes nothing more.'));
    return new Promise((resolve, reject) => {
      for (const rest of rests) this.#unwritten.push(rest);
      this.#waiting.push((error) => (error ? reject(error) : resolve()));
      this.#writeOut();
      this.#now();
    });
  }

  /** As many bytes wait as may. A postback can be long, so records alone would bound nothing. */
  get #isFull(): boolean {
    return this.#inHand.length + this.#filling.length >= this.#options.mostBytes;
  }

  /** How many records are not on disk yet. */
  get #waitingRecords(): number {
    return this.#inHand.records + this.#filling.records + this.#unwritten.length + this.#deferred.length;
  }

  /** Calls back with every batch once it is synced; gives the function that ends it. */
  listen(listener: (batch: Batch) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** The synced records after a `seq`, as NDJSON. What is synced later is not part of it. */
  read(after: number): Readable {
    const files = this.#files.map((file) => ({ ...file }));
    const end = this.#synced;
    return Readable.from(linesAfter(this.#folder, files, after, end));
  }

  /** The records of the UTC day of `at`, oldest first. */
  async *today(at: number): AsyncGenerator<JournalRecord> {
    const day = new Date(at).toISOString().slice(0, 10);
    const first = this.#files.find((file) => file.day >= day)?.first;
    if (first === undefined) return;
    for await (const line of createInterface({ input: this.read(first - 1), crlfDelay: Infinity })) {
      const record: JournalRecord = JSON.parse(line); // written by this class
      yield record;
    }
  }

  /** Writes what waits and closes. What the disk does not take within a second is given up. */
  async close(): Promise<void> {
    this.#closed = true;
    // What waits is bounded and small beside what is kept back, and would else be gone.
    this.writeOnlyKept(false);
    const end = Date.now() + 1000;
    do {
      this.#now();
      await this.#working;
      if (this.#failure) await new Promise((resolve) => setTimeout(resolve, 100));
    } while (this.#waitingRecords > 0 && Date.now() < end);
    clearTimeout(this.#timer);
    clearInterval(this.#sealTimer);
    await this.seal();
    await this.#chain.close();
    await this.#handle?.close();
    this.#handle = undefined;
  }

  #soon(ms: number): void {
    if (this.#timer || this.#working) return;
    this.#timer = setTimeout(() => {
      this.#timer = undefined;
      this.#now();
    }, ms);
  }

  #now(): void {
    if (this.#working) return;
    clearTimeout(this.#timer);
    this.#timer = undefined;
    this.#working = this.#work().finally(() => {
      this.#working = undefined;
      if (this.#waitingRecords > this.#deferred.length || this.#mustTellLost) {
        if (this.#failure) this.#soon(retryMs);
        else if (this.#waiting.length > 0) this.#now();
        else this.#soon(gatherMs);
      }
    });
  }

  get #mustTellLost(): boolean {
    return this.#lost !== undefined && !this.#onlyKept;
  }

  /** Makes lines of the records that are none yet. */
  #writeOut(): void {
    let lines = '';
    let seq = this.#given;
    for (const rest of this.#unwritten)
      lines += `{"seq":${++seq},${typeof rest === 'string' ? rest : rest.rest()}\n`;
    this.#filling.add(lines, this.#unwritten.length);
    this.#given = seq;
    this.#unwritten = [];
  }

  /** Writes the batch in hand, or, where there is none, what was gathered. */
  async #work(): Promise<void> {
    if (this.#inHand.records === 0) {
      if (this.#mustTellLost) {
        this.#unwritten.push(JSON.stringify({ kind: 'lost', why: 'disk', ...this.#lost }).slice(1));
        this.#lost = undefined;
      }
      if (this.#unwritten.length > 0) this.#writeOut();
      if (this.#filling.records === 0) return;
      [this.#inHand, this.#filling] = [this.#filling, this.#inHand];
      this.#writtenWaiting = this.#waiting;
      this.#waiting = [];
    }
    try {
      await this.#write(this.#inHand);
      this.#failure = undefined;
    } catch (error) {
      this.#failure = error instanceof Error ? error : new Error(String(error));
      this.#options.log('the journal could not be written', { error: this.#failure.message });
      this.#writtenWaiting.push(...this.#waiting);
      this.#waiting = [];
    }
    const acknowledged = this.#writtenWaiting;
    this.#writtenWaiting = [];
    for (const acknowledge of acknowledged) acknowledge(this.#failure);
  }

  async #write({ bytes, length, records }: Gathered): Promise<void> {
    const first = this.#synced + 1;
    const last = this.#synced + records;
    const { handle, file } = await this.#fileFor(length);
    try {
      let written = 0;
      while (written < length) {
        const { bytesWritten } = await handle.write(bytes, written, length - written, file.bytes + written);
        written += bytesWritten;
      }
    } catch (error) {
      await handle.truncate(file.bytes).catch(() => this.#leaveFile());
      throw error;
    }
    try {
      await handle.datasync();
    } catch (error) {
      // What the kernel kept of it is unknown now; the records go into a new file, which ends this one.
      await handle.truncate(file.bytes).catch(() => undefined);
      await this.#leaveFile();
      throw error;
    }
    file.bytes += length;
    this.#synced = last;
    this.#hash.update(bytes.subarray(0, length));
    const lines = this.#listeners.size > 0 ? bytes.toString('utf8', 0, length) : '';
    this.#inHand.clear();
    for (const listener of this.#listeners) listener({ first, last, lines });
  }

  async #leaveFile(): Promise<void> {
    await this.#handle?.close().catch(() => undefined);
    this.#handle = undefined;
    this.#mustBegin = true;
  }
  #mustBegin: boolean;

  async #fileFor(bytes: number): Promise<{ handle: FileHandle; file: JournalFile }> {
    const day = new Date(this.#options.now()).toISOString().slice(0, 10);
    let file = this.#files.at(-1);
    const full =
      file === undefined ||
      this.#mustBegin ||
      file.day < day ||
      (file.bytes > 0 && file.bytes + bytes > this.#options.fileBytes);
    if (!full && file) {
      this.#handle ??= await open(join(this.#folder, file.name), 'r+');
      return { handle: this.#handle, file };
    }
    const begun = await beginFile(this.#folder, this.#synced + 1, day);
    await this.#handle?.close().catch(() => undefined);
    this.#handle = begun.handle;
    this.#mustBegin = false;
    if (file && isWritten(file)) {
      if (file.bytes === 0) this.#files.pop();
      else this.#sealing.finish(this.#partOf(file));
    }
    file = begun.file;
    this.#files.push(file);
    this.#hash = createHash('sha256');
    return { handle: this.#handle, file };
  }
}
