import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { parseNdjson } from '#core/formats';
import type { JournalRecord, StoredRows } from '#core/visits';
import { decodeSegment, SegmentDamaged } from '#core/visits';

/** A part of the journal as the server has it ready: its requests as columns, and its other records as lines. */
export interface JournalPart {
  readonly name: string;
  /** The `seq` of its last record. */
  readonly last: number;
  /** SHA-256 of its lines, in hex. */
  readonly sum: string;
}

/** What is in a part. */
export interface PartContent {
  readonly rows: StoredRows;
  readonly others: readonly JournalRecord[];
}

/** @throws Error where a file is not what the server made */
const fetchOnce = async (
  { name, sum }: JournalPart,
  bytesOf: (path: string) => Promise<Uint8Array<ArrayBuffer>>,
): Promise<PartContent> => {
  const [file, lines] = await Promise.all([
    bytesOf(`/api/columns/${name}.fhs`),
    bytesOf(`/api/columns/${name}.ndjson`),
  ]);
  if (bytesToHex(sha256(lines)) !== sum) throw new SegmentDamaged('Its lines are not what was made.');
  return { rows: decodeSegment(file), others: parseNdjson<JournalRecord>(new TextDecoder().decode(lines)) };
};

/** The content of a part, fetched once more where it was damaged on its way; undefined where it is damaged again, or gone. */
export const fetchPart = async (
  part: JournalPart,
  bytesOf: (path: string) => Promise<Uint8Array<ArrayBuffer>>,
  signal: AbortSignal,
): Promise<PartContent | undefined> => {
  for (let times = 0; times < 2; times++)
    try {
      return await fetchOnce(part, bytesOf);
    } catch {
      signal.throwIfAborted();
    }
  return undefined;
};
