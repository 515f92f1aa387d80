import { readFileSync, rmSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import * as v from 'valibot';
import type { HopRecord, JournalRecord } from '#core/visits';
import { encodeSegment, segmentOf, segmentRows, visitOf } from '#core/visits';
import { replaceFile } from '../dataDir.ts';

/** A part of the journal in two files: its requests as columns, and its other records as lines. */
const journalPart = v.strictObject({
  /** Of both files, without their endings. */
  name: v.pipe(v.string(), v.regex(/^\d{6}$/)),
  rows: v.number(),
  /** The `seq` of its last record, a request. */
  last: v.number(),
  /** SHA-256 of the lines, in hex; the columns carry theirs. */
  sum: v.string(),
  /** SHA-256 of its last record as JSON, in hex: by it the journal is known again. */
  end: v.string(),
});
export type JournalPart = v.InferOutput<typeof journalPart>;

/** Which parts were made, and of which journal: of another one, or of one that lost a part since, they tell nothing. */
const made = v.strictObject({ of: v.string(), parts: v.array(journalPart) });

/** Where the columns of a data folder lie. They can be made again from its journal at any time, and are in no backup. */
export const columnsFolder = (dataDir: string): string => join(dataDir, 'columns');
const listName = 'made.json';

/**
 * The parts that were made of a journal, the oldest first.
 *
 * @param of tells this journal from others, and from itself before something of it was removed
 */
export const madeParts = (dataDir: string, of: string): readonly JournalPart[] => {
  try {
    const read = v.safeParse(made, JSON.parse(readFileSync(join(columnsFolder(dataDir), listName), 'utf8')));
    return read.success && read.output.of === of ? read.output.parts : [];
  } catch {
    // There is none, or it was cut off: all of it is made again.
    return [];
  }
};

const endOf = (record: JournalRecord): string =>
  bytesToHex(sha256(new TextEncoder().encode(JSON.stringify(record))));

/**
 * Removes the parts of a journal that went on differently since: from before an older folder was put back. What is written to a journal
 * never changes, so where the last record of the newest part is still the same, all before it is.
 *
 * @param recordAt gives a record of the journal by its `seq`
 */
export const removeStrangeParts = async (
  dataDir: string,
  of: string,
  recordAt: (seq: number) => Promise<JournalRecord | undefined>,
): Promise<void> => {
  const newest = madeParts(dataDir, of).at(-1);
  if (!newest) return;
  const record = await recordAt(newest.last);
  if (!record || endOf(record) !== newest.end)
    rmSync(columnsFolder(dataDir), { recursive: true, force: true });
};

/**
 * Makes a part of every segment that the journal fills and that has none yet.
 *
 * @param records of the journal in their order, at least those after the newest that is in a part
 * @returns all parts there are now
 */
export const makeParts = async (
  dataDir: string,
  of: string,
  records: AsyncIterable<JournalRecord>,
): Promise<readonly JournalPart[]> => {
  const folder = columnsFolder(dataDir);
  const parts = [...madeParts(dataDir, of)];
  if (parts.length === 0) rmSync(folder, { recursive: true, force: true });
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const after = parts.at(-1)?.last ?? 0;
  let hops: HopRecord[] = [];
  let others: string[] = [];
  for await (const record of records) {
    if (record.seq <= after) continue;
    const hop = visitOf(record);
    if (hop) hops.push(hop);
    else others.push(`${JSON.stringify(record)}\n`);
    if (hops.length < segmentRows) continue;
    const name = String(parts.length + 1).padStart(6, '0');
    const lines = new TextEncoder().encode(others.join(''));
    await replaceFile(join(folder, `${name}.fhs`), Buffer.from(encodeSegment(segmentOf(hops)).buffer));
    await replaceFile(join(folder, `${name}.ndjson`), Buffer.from(lines.buffer));
    const sum = bytesToHex(sha256(lines));
    parts.push({ name, rows: hops.length, last: record.seq, sum, end: endOf(record) });
    // A part counts once it stands in the list.
    await replaceFile(join(folder, listName), JSON.stringify({ of, parts }));
    [hops, others] = [[], []];
  }
  return parts;
};
