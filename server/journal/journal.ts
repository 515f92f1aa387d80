import { createReadStream } from 'node:fs';
import type { FileHandle } from 'node:fs/promises';
import { open, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { replaceFile } from '../dataDir.ts';
import type { JournalDraft, JournalRecord } from '#core/visits';
import type { JournalFile } from './files.ts';
import { beginFile, recover } from './files.ts';
import { Gathered } from './gathered.ts';

/** A record as JSON, less its first brace and its `seq`; or what gives it when its line is made. */
export type Rest = string | { rest(): string };

/** Links that are told by name in a record of what was lost; the rest share one entry. */
const mostLostLinks = 100;

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
    files: JournalFile[],
    last: number,
    options: Required<JournalOptions>,
  ) {
    this.#folder = folder;
    this.identity = identity;
    this.#files = files;
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
      now: Date.now,
      log: () => undefined,
      ...options,
    };
    const { files, last, version, cuts } = await recover(folder);
    for (const cut of cuts) full.log('cut the end of a journal file', cut);
    const path = join(folder, 'identity');
    let identity = await readFile(path, 'utf8').then(
      (text) => text.trim(),
      () => '',
    );
    if (identity === '') {
      identity = newIdentity;
      await replaceFile(path, `${identity}\n`);
    }
    return { journal: new Journal(folder, identity, files, last, full), version };
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
    return Readable.from(this.#lines(files, after, end));
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

  async *#lines(files: readonly JournalFile[], after: number, end: number): AsyncGenerator<Buffer> {
    for (const [i, file] of files.entries()) {
      const last = (files[i + 1]?.first ?? end + 1) - 1;
      if (last <= after || file.bytes === 0) continue;
      let skip = Math.max(0, after + 1 - file.first);
      for await (const chunk of createReadStream(join(this.#folder, file.name), { end: file.bytes - 1 })) {
        let part = chunk as Buffer; // a stream without encoding gives buffers
        while (skip > 0) {
          const line = part.indexOf(10);
          skip -= line < 0 ? 0 : 1;
          part = line < 0 ? part.subarray(part.length) : part.subarray(line + 1);
          if (line < 0) break;
        }
        if (skip === 0 && part.length > 0) yield part;
      }
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
    const lines = this.#listeners.size > 0 ? bytes.toString('utf8', 0, length) : '';
    this.#inHand.clear();
    for (const listener of this.#listeners) listener({ first, last, lines });
  }

  async #leaveFile(): Promise<void> {
    await this.#handle?.close().catch(() => undefined);
    this.#handle = undefined;
    const file = this.#files.at(-1);
    if (file?.bytes === 0) this.#files.pop();
    this.#mustBegin = true;
  }
  #mustBegin = false;

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
    if (file?.bytes === 0) this.#files.pop();
    file = begun.file;
    this.#files.push(file);
    return { handle: this.#handle, file };
  }
}
