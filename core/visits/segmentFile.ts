import { sha256 } from '@noble/hashes/sha2.js';
import { element } from '#core/catalogue';
import type { StoredRows } from './columns.ts';
import {
  addedColumns,
  columnNames,
  emptyTexts,
  newSegment,
  segmentRows,
  textColumns,
  VisitColumns,
} from './columns.ts';
import type { HopRecord } from './records.ts';

/** A segment file is not what was written: it is to be fetched, or made, again. */
export class SegmentDamaged extends Error {}

/** What a file begins with; the last character rises with the form. */
const magic = 'FHS1';
const sumBytes = 32;
/** Where a column begins, so that a typed array may lie over it. */
const boundary = 8;
const headerAt = magic.length + sumBytes;
const upTo = (at: number): number => Math.ceil(at / boundary) * boundary;

/** What a file says of itself, as JSON in front of the columns. */
interface Header {
  readonly rows: number;
  /** Bytes of each column, in their order. */
  readonly columns: readonly (readonly [name: string, bytes: number])[];
  readonly texts: StoredRows['added'];
}

/**
 * Some requests as a segment that stands by itself: the texts in its columns are all beside it.
 *
 * @param hops at most `segmentRows` of them, in the order of the journal
 */
export const segmentOf = (hops: readonly HopRecord[]): StoredRows => {
  if (hops.length === 0 || hops.length > segmentRows)
    throw new RangeError(`${hops.length} rows in a segment`);
  const columns = new VisitColumns();
  for (const hop of hops) columns.add(hop);
  return columns.store(0, hops.length, {});
};

/**
 * A segment that stands by itself as the bytes of a file: `FHS1`, the SHA-256 of what follows, the length of a header (32 bits), the
 * header as JSON, and each column from a multiple of eight bytes on. Numbers are little-endian, as in every typed array there is.
 */
export const encodeSegment = ({ segment, added }: StoredRows): Uint8Array<ArrayBuffer> => {
  const header: Header = {
    rows: segment.rows,
    columns: columnNames.map((name) => [name, segment[name].byteLength]),
    texts: added,
  };
  const said = new TextEncoder().encode(JSON.stringify(header));
  let at = upTo(headerAt + 4 + said.length);
  const places = columnNames.map((name) => {
    const place = at;
    at = upTo(at + segment[name].byteLength);
    return place;
  });
  const file = new Uint8Array(at);
  file.set(new TextEncoder().encode(magic));
  new DataView(file.buffer).setUint32(headerAt, said.length, true);
  file.set(said, headerAt + 4);
  for (const [i, name] of columnNames.entries()) {
    const { buffer, byteOffset, byteLength } = segment[name];
    file.set(new Uint8Array(buffer, byteOffset, byteLength), places[i]);
  }
  file.set(sha256(file.subarray(headerAt)), magic.length);
  return file;
};

const isHeader = (value: unknown): value is Header =>
  typeof value === 'object' && value !== null && 'rows' in value && 'columns' in value && 'texts' in value;

/**
 * The segment in the bytes of a file.
 *
 * @throws SegmentDamaged where they are not what was written, or of another form
 */
export const decodeSegment = (
  file: Uint8Array<ArrayBuffer>,
  /** SHA-256, where the machine has one that is faster. */
  digest: (bytes: Uint8Array) => Uint8Array = sha256,
): StoredRows => {
  const begins = new TextDecoder().decode(file.subarray(0, magic.length));
  if (begins !== magic) throw new SegmentDamaged(`It begins with ${JSON.stringify(begins)}, not ${magic}.`);
  const sum = digest(file.subarray(headerAt));
  if (sum.some((byte, i) => byte !== file[magic.length + i]))
    throw new SegmentDamaged('Its checksum is not that of its bytes.');
  const length = new DataView(file.buffer, file.byteOffset).getUint32(headerAt, true);
  // What has the right checksum was written by the function above.
  const header: unknown = JSON.parse(
    new TextDecoder().decode(file.subarray(headerAt + 4, headerAt + 4 + length)),
  );
  if (!isHeader(header)) throw new SegmentDamaged('Its header is none.');
  const segment = newSegment(header.rows);
  segment.rows = header.rows;
  let at = upTo(headerAt + 4 + length);
  for (const name of columnNames) {
    const bytes = header.columns.find(([known]) => known === name)?.[1];
    const column = segment[name];
    if (bytes === undefined && addedColumns.some((added) => added === name)) continue;
    if (bytes !== column.byteLength) throw new SegmentDamaged(`Its column ${name} is of another length.`);
    new Uint8Array(column.buffer).set(file.subarray(at, at + bytes));
    at = upTo(at + bytes);
  }
  return { segment, added: { ...emptyTexts, ...header.texts } };
};

const noTexts = Object.fromEntries(textColumns.map((name) => [name, []])) as unknown as StoredRows['added']; // each was put in

/** Puts a segment that stands by itself behind other requests, whose dictionaries know its texts by other places. It is written over. */
export const takeSegment = (columns: VisitColumns, { segment, added }: StoredRows): void => {
  for (const name of textColumns) {
    const places = Uint32Array.from(added[name], (text) => columns.dictionaries[name].place(text));
    const column = segment[name];
    for (let i = 0; i < segment.rows; i++) column[i] = element(places[element(column[i])]);
  }
  columns.take({ segment, added: noTexts });
};
