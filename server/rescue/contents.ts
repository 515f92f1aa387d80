import type { FileHandle } from 'node:fs/promises';
import { open, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import * as v from 'valibot';
import { keptSeal } from '#core/catalogue';
import { chainName, inOrder, isExcerptName } from '../journal/index.ts';

/** What a backup says of itself, in its first entry. */
export const manifestName = 'backup.json';
/** Its last entry: sums of all the others, as `sha256sum -c` reads them. A backup without it is not whole. */
export const sumsName = 'sums.sha256';

export const manifest = v.strictObject({
  what: v.literal('a backup of Fernhop'),
  /** The format of the data folder it was made of. */
  format: v.pipe(v.number(), v.integer(), v.minValue(2)),
  identity: v.pipe(v.string(), v.regex(/^[0-9A-Za-z]{1,40}$/)),
  /** When it was begun; milliseconds since 1970 UTC. */
  at: v.number(),
  /** The newest seal of the journal in it. */
  seal: v.exactOptional(keptSeal),
  /** It holds the mail addresses that visitors left. */
  mailAddresses: v.boolean(),
});
export type Manifest = v.InferOutput<typeof manifest>;

const journalFolder = 'journal';
const mailAddresses = 'waiting-list.ndjson';
/** Files beside the journal, in the order in which they are read: see `openContents`. */
const besides = [
  'changes.ndjson',
  'generations.ndjson',
  'erasures.ndjson',
  'rejected.ndjson',
  'rejected.ndjson.older',
];

/** True for the name of an entry that a backup may hold. */
export const isContent = (name: string): boolean => {
  const inJournal = name.startsWith(`${journalFolder}/`) ? name.slice(journalFolder.length + 1) : undefined;
  if (inJournal === undefined) return besides.includes(name) || name === mailAddresses;
  return (
    inJournal === 'identity' ||
    inJournal === chainName ||
    isExcerptName(inJournal) ||
    inOrder([inJournal]).length === 1
  );
};

/** What of a data folder is replaced as one by a restore: files, and the journal's folder as a whole. */
export const placesOf = (names: readonly string[]): string[] => [
  ...new Set(names.map((name) => name.split('/', 1)[0] ?? name)),
];

/** A file to be kept: as many bytes of it as there were whole lines. */
export interface Content {
  readonly name: string;
  readonly bytes: number;
  readonly handle: FileHandle;
}

const chunkBytes = 64 * 1024;

/** Bytes of a file up to its last line break. */
const wholeLines = async (handle: FileHandle): Promise<number> => {
  const { size } = await handle.stat();
  for (let end = size; end > 0;) {
    const from = Math.max(0, end - chunkBytes);
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(end - from), 0, end - from, from);
    const last = buffer.subarray(0, bytesRead).lastIndexOf(10);
    if (last >= 0) return from + last + 1;
    end = from;
  }
  return 0;
};

const isGone = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && error.code === 'ENOENT';

/**
 * Opens all that a backup holds, each cut at its last whole line. A server may be writing: the chain is looked at first,
 * since its seals cover what is in the files then; the change feed after the journal, since every change the journal tells of
 * is in the feed already. The handles stay with their files when the server puts others in their place.
 *
 * @throws Error where there is no journal or no change feed
 */
export const openContents = async (folder: string, withMailAddresses: boolean): Promise<Content[]> => {
  const contents: Content[] = [];
  const add = async (name: string, isOptional: boolean) => {
    const handle = await open(join(folder, name), 'r').catch((error: unknown) => {
      if (isOptional && isGone(error)) return undefined;
      throw error;
    });
    if (handle) contents.push({ name, handle, bytes: await wholeLines(handle) });
  };
  try {
    await add(`${journalFolder}/identity`, false);
    await add(`${journalFolder}/${chainName}`, true);
    const names = await readdir(join(folder, journalFolder));
    for (const name of [...names.filter(isExcerptName), ...inOrder(names).map((file) => file.name)])
      await add(`${journalFolder}/${name}`, false);
    for (const name of besides) await add(name, name !== 'changes.ndjson');
    if (withMailAddresses) await add(mailAddresses, true);
    return contents;
  } catch (error) {
    await closeContents(contents);
    throw error;
  }
};

export const closeContents = async (contents: readonly Content[]): Promise<void> => {
  for (const { handle } of contents) await handle.close().catch(() => undefined);
};
