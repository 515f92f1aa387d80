import { element } from '#core/catalogue';
import type { Hash } from 'node:crypto';
import { createHash } from 'node:crypto';
import type { FileHandle } from 'node:fs/promises';
import { mkdir, open, readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { syncFolder } from '../dataDir.ts';
import type { Chain, Seal } from './chain.ts';
import { contentIfThere, sha256 } from './chain.ts';

/** One file of the journal. Records in it end where the next file begins. */
export interface JournalFile {
  readonly name: string;
  /** The `seq` its first record has, or will have. */
  readonly first: number;
  /** Bytes that are synced and may be shown. */
  bytes: number;
  /** The UTC day it was begun, `2026-11-23`. */
  readonly day: string;
  /** It is not what was sealed: what can be read of it is shown, and nobody writes to it. */
  readonly damaged?: string;
  /** It holds what stays of files that were removed by choice: not every record of its range. */
  readonly isExcerpt?: boolean;
}

/** Names a file by its first `seq` and day; `again` tells apart one that was begun anew at the same `seq`. */
const nameOf = (first: number, day: string, again: number): string =>
  `${String(first).padStart(12, '0')}-${day}${again > 0 ? `.${again}` : ''}.ndjson`;

const namePattern = /^(\d{12})-(\d{4}-\d\d-\d\d)(?:\.(\d+))?\.ndjson$/;

/** True for the name of a file with what stays of removed ones. */
export const isExcerptName = (name: string): boolean => /^\d{12}-\d{12}\.(?:kept|counts)\.ndjson$/.test(name);

/** What the name of a file says. */
export interface NamedFile {
  readonly name: string;
  readonly first: number;
  readonly day: string;
}

/** What the name of a journal's file says, in the order of their records; other names are passed over. */
export const inOrder = (names: readonly string[]): NamedFile[] =>
  names
    .flatMap((name) => {
      const match = namePattern.exec(name);
      return match
        ? [{ name, first: Number(match[1]), day: element(match[2]), again: Number(match[3] ?? 0) }]
        : [];
    })
    .sort((a, b) => a.first - b.first || a.again - b.again);

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

/** Whole lines from a byte on that carry the `seq` they should, from `first` on; stops at the first that does not. */
const wholeLines = function* (content: Buffer, start: number, first: number): Generator<Line> {
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

/**
 * The records that can be read in a file that is damaged, by their `seq`, of which it may hold those from `first` to `last`.
 */
export const readableLines = function* (content: Buffer, first: number, last: number): Generator<Line> {
  let start = 0;
  for (let end = content.indexOf(10); end >= 0; end = content.indexOf(10, start)) {
    const text = content.toString('utf8', start, end);
    start = end + 1;
    const seq = Number(/^\{"seq":(\d+),/.exec(text)?.[1]);
    if (!(seq >= first && seq <= last)) continue;
    try {
      JSON.parse(text);
    } catch {
      continue;
    }
    yield { seq, end: start, text };
  }
};

const changeMark = Buffer.from('"kind":"change"');

/** The newest version the change records of some bytes tell of. */
const newestVersion = (content: Buffer): number => {
  let version = 0;
  for (let at = content.indexOf(changeMark); at >= 0; at = content.indexOf(changeMark, at + 1)) {
    const end = content.indexOf(10, at);
    const line = content.toString('utf8', content.lastIndexOf(10, at) + 1, end < 0 ? undefined : end);
    try {
      const record: unknown = JSON.parse(line);
      if (typeof record === 'object' && record !== null && 'version' in record)
        version = Math.max(version, Number(record.version) || 0);
    } catch {
      // Damaged, or torn off: no record.
    }
  }
  return version;
};

/** What a seal says of a file. */
export type SealedPart = Pick<Seal, 'file' | 'first' | 'last' | 'bytes' | 'sha256'>;

export interface Recovered {
  readonly files: JournalFile[];
  /** The last `seq` there is, 0 in an empty journal. */
  readonly last: number;
  /** The newest version a change record tells of. */
  readonly version: number;
  /** What had to be cut off, for the log. */
  readonly cuts: readonly { readonly name: string; readonly bytes: number }[];
  /** The hash of the last file as far as it goes, to be continued. */
  readonly hash: Hash;
  /** Finished files that no seal covers wholly, each with its last `seq` and its hash. */
  readonly unsealed: readonly SealedPart[];
}

/** Why a file is not what was sealed; undefined where it is, or where it holds more than that. */
const damageOf = (content: Buffer, { bytes, sha256, at }: Seal): string | undefined => {
  const sealed = `it was sealed with ${bytes} bytes on ${new Date(at).toISOString()}`;
  if (content.length < bytes) return `It is shorter than sealed: ${sealed}.`;
  const found = createHash('sha256').update(content.subarray(0, bytes)).digest('hex');
  return found === sha256 ? undefined : `It was altered since ${sealed}.`;
};

/**
 * Brings the journal into order after any end: a torn last line is cut off, what a file holds beyond the
 * beginning of the next is cut off, and all that remains is synced before anybody sees it. What was sealed is never cut: a
 * file that is not what was sealed stays as it is, for whoever has to find out why.
 */
export const recover = async (folder: string, chain: Chain): Promise<Recovered> => {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const all = inOrder(await readdir(folder));
  // What was removed by choice may still be there where a crash came between.
  for (const { name } of all) if (chain.isRemoved(name)) await rm(join(folder, name));
  const onDisk = all.filter(({ name }) => !chain.isRemoved(name));
  const missing = chain.sealed.filter(({ file }) => !onDisk.some(({ name }) => name === file));
  const found = [...onDisk, ...inOrder(missing.map(({ file }) => file))].sort((a, b) => a.first - b.first);

  const files: JournalFile[] = [];
  const cuts: { name: string; bytes: number }[] = [];
  const unsealed: SealedPart[] = [];
  let hash = createHash('sha256');
  let last = 0;
  let version = 0;
  for (const { kept, counts, first, last: lastRemoved, until } of chain.removals) {
    const content = await contentIfThere(join(folder, kept.file));
    const counted = await contentIfThere(join(folder, counts.file));
    const isWhole = sha256(content) === kept.sha256 && sha256(counted) === counts.sha256;
    files.push({
      name: kept.file,
      first,
      bytes: content.length,
      day: new Date(until - 1).toISOString().slice(0, 10),
      isExcerpt: true,
      ...(!isWhole && { damaged: 'It, or the daily counts beside it, is not what was sealed.' }),
    });
    version = Math.max(version, newestVersion(content));
    last = Math.max(last, lastRemoved);
  }
  for (const [i, { name, first, day }] of found.entries()) {
    const next = found[i + 1]?.first ?? Infinity;
    const path = join(folder, name);
    const seal = chain.sealOf(name);
    if (next === first && !seal) {
      await rm(path);
      cuts.push({ name, bytes: 0 });
      continue;
    }
    last = Math.max(last, first - 1);
    const handle = await open(path, 'r+').catch((error: unknown) => {
      if (seal && error instanceof Error && 'code' in error && error.code === 'ENOENT') return undefined;
      throw error;
    });
    if (!handle) {
      files.push({ name, first, bytes: 0, day, damaged: 'It is missing.' });
      last = Math.max(last, seal?.last ?? 0);
      continue;
    }
    try {
      const content = await handle.readFile();
      const damaged = seal && damageOf(content, seal);
      if (seal && damaged !== undefined) {
        files.push({ name, first, bytes: content.length, day, damaged });
        last = Math.max(last, seal.last);
        for (const line of readableLines(content, first, next - 1)) last = Math.max(last, line.seq);
        version = Math.max(version, newestVersion(content));
        continue;
      }
      let bytes = seal?.bytes ?? 0;
      last = Math.max(last, seal?.last ?? 0);
      for (const line of wholeLines(content, bytes, seal ? seal.last + 1 : first)) {
        if (line.seq >= next) break;
        bytes = line.end;
        last = line.seq;
      }
      const kept = content.subarray(0, bytes);
      version = Math.max(version, newestVersion(kept));
      if (bytes < content.length) {
        cuts.push({ name, bytes: content.length - bytes });
        await handle.truncate(bytes);
      }
      await handle.sync();
      files.push({ name, first, bytes, day });
      if (next === Infinity) hash = createHash('sha256').update(kept);
      else if (bytes > (seal?.bytes ?? 0))
        unsealed.push({
          file: name,
          first,
          last,
          bytes,
          sha256: createHash('sha256').update(kept).digest('hex'),
        });
    } finally {
      await handle.close();
    }
  }
  return { files, last, version, cuts, hash, unsealed };
};
