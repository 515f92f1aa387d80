import type { FileHandle } from 'node:fs/promises';
import { open, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import pLimit from 'p-limit';
import type {
  Change,
  ChangesAnswer,
  ChangesPage,
  Digest,
  RecordKind,
  Refused,
  StoredChange,
} from '#core/catalogue';
import { digestOf } from '#core/catalogue';
import { replaceFile, syncFolder } from '../dataDir.ts';
import { accept } from './accept.ts';
import { LinkTable } from './linkTable.ts';

/** Where the newest version of a record stands in the file. */
interface FilePosition {
  readonly kind: RecordKind;
  readonly change: string;
  readonly version: number;
  readonly revision: number;
  readonly offset: number;
  readonly length: number;
}

export interface FeedOptions {
  readonly isAppHost: (host: string) => boolean;
  /** Told of every change once it is on disk. */
  readonly onStored: (stored: StoredChange) => void;
  readonly log?: (message: string, detail: object) => void;
}

const pageSize = 2000;

/** A line of the feed's file: a change, or what compaction left of one that was superseded. */
type Line = StoredChange | Pick<StoredChange, 'version' | 'change'>;

/** @throws Error with one clear line: what stands before the end of the file was whole once, so the disk damaged it */
const readLine = (text: string, offset: number): Line => {
  try {
    const line: Line = JSON.parse(text);
    return line;
  } catch {
    throw new Error(
      `the change feed (changes.ndjson) is damaged at byte ${offset}: "${text.slice(0, 40)}…". Bring it back from a backup, or take that line out of a copy.`,
    );
  }
};

const positionOf = (
  { kind, change, version, revision }: StoredChange,
  offset: number,
  length: number,
): FilePosition => ({ kind, change, version, revision, offset, length });

/** The whole lines of the file. It holds nothing but what this module wrote. */
const linesOf = function* (
  content: Buffer,
): Generator<{ line: Line; text: string; offset: number; length: number }> {
  let offset = 0;
  for (let end = content.indexOf(10); end >= 0; end = content.indexOf(10, offset)) {
    const text = content.toString('utf8', offset, end);
    const line = readLine(text, offset);
    yield { line, text, offset, length: end + 1 - offset };
    offset = end + 1;
  }
};

/**
 * The append-only feed of everything a person made, and the link table built from it. A change is answered once
 * it is on disk; one already known is answered as the first time; one on a stale revision is refused with the
 * newest version.
 */
export class Feed {
  readonly table = new LinkTable();
  readonly #path: string;
  readonly #options: FeedOptions;
  /** In the order of versions: a record that changes moves to the end. */
  readonly #places = new Map<string, FilePosition>();
  readonly #known = new Set<string>();
  #handle: FileHandle;
  #bytes = 0;
  #version = 0;
  #superseded = 0;
  readonly #inTurn = pLimit(1);

  private constructor(path: string, handle: FileHandle, options: FeedOptions) {
    this.#path = path;
    this.#handle = handle;
    this.#options = options;
  }

  /** Opens the feed in a file, cuts off a torn last line, and compacts it when that pays. */
  static async open(path: string, options: FeedOptions): Promise<Feed> {
    await rm(`${path}.new`, { force: true });
    const handle = await open(path, 'a+', 0o600).then(async (made) => {
      await made.close();
      return open(path, 'r+');
    });
    await syncFolder(dirname(path));
    const feed = new Feed(path, handle, options);
    await feed.#load();
    if (feed.#superseded > 1000 && feed.#superseded > feed.#places.size) await feed.compact();
    return feed;
  }

  /** The number of the newest change. */
  get version(): number {
    return this.#version;
  }

  async #load(): Promise<void> {
    const content = await this.#handle.readFile();
    this.#build(content);
    if (this.#bytes < content.length) {
      this.#options.log?.('cut the end of the change feed', { bytes: content.length - this.#bytes });
      await this.#handle.truncate(this.#bytes);
    }
    await this.#handle.sync();
  }

  #build(content: Buffer): void {
    this.#bytes = 0;
    for (const { line, offset, length } of linesOf(content)) {
      this.#take(line, offset, length);
      this.#bytes = offset + length;
    }
  }

  async #content(): Promise<Buffer> {
    const content = Buffer.alloc(this.#bytes);
    await this.#handle.read(content, 0, this.#bytes, 0);
    return content;
  }

  #take(line: Line, offset: number, length: number): void {
    this.#version = Math.max(this.#version, line.version);
    this.#known.add(line.change);
    if (!('record' in line)) return;
    if (this.#places.delete(line.record)) this.#superseded += 1;
    this.#places.set(line.record, positionOf(line, offset, length));
    this.table.put(line);
  }

  /**
   * Takes changes in their order. Each stands for itself: one refused does not hold up the others.
   *
   * @throws Error when the disk did not take them; then none of them took place
   */
  apply(changes: readonly Change[]): Promise<ChangesAnswer> {
    return this.#inTurn(async () => {
      const taken: ChangesAnswer['taken'][number][] = [];
      const overtaken: ChangesAnswer['overtaken'][number][] = [];
      const refused: Refused[] = [];
      for (const change of changes) {
        const place = this.#places.get(change.record);
        if (this.#known.has(change.change)) {
          if (!place)
            refused.push({
              change: change.change,
              path: 'change',
              message: 'This change ID is another record’s. Make a new one.',
            });
          else if (place.change === change.change)
            taken.push({ change: place.change, version: place.version });
          else overtaken.push({ change: change.change, newest: await this.#readAt(place) });
          continue;
        }
        const revision = place?.revision ?? 0;
        if (change.revision !== revision + 1) {
          refused.push({
            change: change.change,
            path: 'revision',
            message:
              change.revision <= revision
                ? 'Somebody else changed it in the meantime. Choose which version stays.'
                : 'It builds on a version that is not known here.',
            ...(place && { theirs: await this.#readAt(place) }),
          });
          continue;
        }
        const accepted = accept(change, this.table, this.#options.isAppHost);
        if (!accepted.ok) {
          refused.push({ change: change.change, ...accepted.problem });
          continue;
        }
        // Each line is written before the next change is judged, since that may rest on it; one sync ends them all.
        this.#append({ version: this.#version + 1, ...change, value: accepted.value });
        taken.push({ change: change.change, version: this.#version });
      }
      await this.#sync();
      return { version: this.#version, taken, overtaken, refused };
    });
  }

  #pending: { stored: StoredChange; bytes: Buffer }[] = [];

  #append(stored: StoredChange): void {
    const bytes = Buffer.from(`${JSON.stringify(stored)}\n`);
    const offset = this.#bytes + this.#pending.reduce((sum, line) => sum + line.bytes.length, 0);
    this.#pending.push({ stored, bytes });
    this.#take(stored, offset, bytes.length);
  }

  async #sync(): Promise<void> {
    const pending = this.#pending;
    this.#pending = [];
    if (pending.length === 0) return;
    const bytes = Buffer.concat(pending.map((line) => line.bytes));
    try {
      let written = 0;
      while (written < bytes.length) {
        const { bytesWritten } = await this.#handle.write(
          bytes,
          written,
          bytes.length - written,
          this.#bytes + written,
        );
        written += bytesWritten;
      }
      await this.#handle.datasync();
    } catch (error) {
      await this.#undo();
      throw error;
    }
    this.#bytes += bytes.length;
    for (const { stored } of pending) this.#options.onStored(stored);
  }

  /** After a failed write: cuts the file back and builds everything anew from what is on disk. */
  async #undo(): Promise<void> {
    await this.#handle.truncate(this.#bytes).catch(() => undefined);
    this.#places.clear();
    this.#known.clear();
    this.table.clear();
    this.#version = 0;
    this.#superseded = 0;
    this.#build(await this.#content());
  }

  /** The newest version of each record that changed after a version, oldest change first, a page at a time. */
  read(after: number): Promise<ChangesPage> {
    return this.#inTurn(async () => {
      const changes: StoredChange[] = [];
      for (const place of this.#places.values()) {
        if (place.version <= after) continue;
        if (changes.length === pageSize)
          return { version: changes.at(-1)?.version ?? after, changes, more: true };
        changes.push(await this.#readAt(place));
      }
      return { version: this.#version, changes, more: false };
    });
  }

  /** The newest version of a record; undefined where it is not known here. */
  record(id: string): Promise<StoredChange | undefined> {
    return this.#inTurn(async () => {
      const place = this.#places.get(id);
      return place && this.#readAt(place);
    });
  }

  /** What all records come to, each by the change that made it what it is. */
  digest(): Promise<{ readonly version: number; readonly kinds: Digest }> {
    return this.#inTurn(() => ({
      version: this.#version,
      kinds: digestOf([...this.#places].map(([record, { kind, change }]) => ({ record, kind, change }))),
    }));
  }

  /**
   * Every change on disk after a version, oldest first, for the journal to catch up with after a crash. Of changes that
   * were superseded before a compaction only their IDs are left, so those are not among them.
   */
  async since(version: number): Promise<StoredChange[]> {
    const found: StoredChange[] = [];
    for (const { line } of linesOf(await this.#content()))
      if ('record' in line && line.version > version) found.push(line);
    return found;
  }

  async #readAt({ offset, length, version }: FilePosition): Promise<StoredChange> {
    const waiting = this.#pending.find((line) => line.stored.version === version);
    if (waiting) return waiting.stored;
    const bytes = Buffer.alloc(length);
    await this.#handle.read(bytes, 0, length, offset);
    const line: unknown = JSON.parse(bytes.toString());
    return line as StoredChange; // written by this class
  }

  /** Writes the file anew with the newest version of each record; of the others their change IDs stay. */
  async compact(): Promise<void> {
    const newest = new Set([...this.#places.values()].map((place) => place.version));
    const lines: string[] = [];
    for (const { line, text } of linesOf(await this.#content()))
      lines.push(
        newest.has(line.version) ? text : JSON.stringify({ version: line.version, change: line.change }),
      );
    const content = Buffer.from(`${lines.join('\n')}\n`);
    await replaceFile(this.#path, content);
    await this.#handle.close();
    this.#handle = await open(this.#path, 'r+');
    for (const { line, offset, length } of linesOf(content))
      if ('record' in line) this.#places.set(line.record, positionOf(line, offset, length));
    this.#bytes = content.length;
    this.#superseded = 0;
  }

  async close(): Promise<void> {
    // Whatever waits for its turn is done first.
    await this.#inTurn(() => this.#handle.close());
  }
}
