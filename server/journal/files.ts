import { element } from '#core/catalogue';
import type { FileHandle } from 'node:fs/promises';
import { mkdir, open, readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { syncFolder } from '../dataDir.ts';

/** One file of the journal. Records in it end where the next file begins. */
export interface JournalFile {
  readonly name: string;
  /** The `seq` its first record has, or will have. */
  readonly first: number;
  /** Bytes that are synced and may be shown. */
  bytes: number;
  /** The UTC day it was begun, `2026-11-23`. */
  readonly day: string;
}

/** Names a file by its first `seq` and day; `again` tells apart one that was begun anew at the same `seq`. */
const nameOf = (first: number, day: string, again: number): string =>
  `${String(first).padStart(12, '0')}-${day}${again > 0 ? `.${again}` : ''}.ndjson`;

const namePattern = /^(\d{12})-(\d{4}-\d\d-\d\d)(?:\.(\d+))?\.ndjson$/;

/** Begins a file on disk; its entry in the folder is synced before it is used. */
export const beginFile = async (
  folder: string,
  first: number,
  day: string,
): Promise<{ file: JournalFile; handle: FileHandle }> => {
  for (let again = 0; ; again++) {
    const name = nameOf(first, day, again);
    try {
      const handle = await open(join(folder, name), 'wx', 0o600);
      await syncFolder(folder);
      return { file: { name, first, bytes: 0, day }, handle };
    } catch (error) {
      if (error instanceof Error && 'code' in error && error.code === 'EEXIST' && again < 1000) continue;
      throw error;
    }
  }
};

interface Line {
  readonly seq: number;
  /** Offset behind its line break. */
  readonly end: number;
  readonly text: string;
}

/** Whole lines of a file that carry the `seq` they should, from `first` on; stops at the first that does not. */
const wholeLines = function* (content: Buffer, first: number): Generator<Line> {
  let start = 0;
  for (let seq = first; ; seq++) {
    const end = content.indexOf(10, start);
    if (end < 0) return;
    const text = content.toString('utf8', start, end);
    if (!text.startsWith(`{"seq":${seq},`)) return;
    try {
      JSON.parse(text);
    } catch {
      return;
    }
    start = end + 1;
    yield { seq, end: start, text };
  }
};

export interface Recovered {
  readonly files: JournalFile[];
  /** The last `seq` there is, 0 in an empty journal. */
  readonly last: number;
  /** The newest version a change record tells of. */
  readonly version: number;
  /** What had to be cut off, for the log. */
  readonly cuts: readonly { readonly name: string; readonly bytes: number }[];
}

/**
 * Brings the journal into order after any end: a torn last line is cut off, what a file holds beyond the
 * beginning of the next is cut off, and all that remains is synced before anybody sees it.
 */
export const recover = async (folder: string): Promise<Recovered> => {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const found = (await readdir(folder))
    .map((name) => ({ name, match: namePattern.exec(name) }))
    .flatMap(({ name, match }) =>
      match ? [{ name, first: Number(match[1]), day: element(match[2]), again: Number(match[3] ?? 0) }] : [],
    )
    .sort((a, b) => a.first - b.first || a.again - b.again);

  const files: JournalFile[] = [];
  const cuts: { name: string; bytes: number }[] = [];
  let last = 0;
  let version = 0;
  for (const [i, { name, first, day }] of found.entries()) {
    const next = found[i + 1]?.first ?? Infinity;
    const path = join(folder, name);
    if (next === first) {
      await rm(path);
      cuts.push({ name, bytes: 0 });
      continue;
    }
    const handle = await open(path, 'r+');
    try {
      const content = await handle.readFile();
      let bytes = 0;
      last = Math.max(last, first - 1);
      for (const line of wholeLines(content, first)) {
        if (line.seq >= next) break;
        bytes = line.end;
        last = line.seq;
        if (line.text.includes('"kind":"change"')) {
          const record: unknown = JSON.parse(line.text);
          if (typeof record === 'object' && record !== null && 'version' in record)
            version = Math.max(version, Number(record.version));
        }
      }
      if (bytes < content.length) {
        cuts.push({ name, bytes: content.length - bytes });
        await handle.truncate(bytes);
      }
      await handle.sync();
      files.push({ name, first, bytes, day });
    } finally {
      await handle.close();
    }
  }
  return { files, last, version, cuts };
};
