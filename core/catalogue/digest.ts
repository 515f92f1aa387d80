import type { RecordKind } from './records.ts';

/** What the records of a kind come to: how many, and a sum over which change made each what it is. */
export interface KindDigest {
  readonly count: number;
  /** 64 bits in hex; the order of the records does not matter. */
  readonly sum: string;
}
export type Digest = Readonly<Partial<Record<RecordKind, KindDigest>>>;

/** FNV-1a over UTF-16 code units, 32 bits, from a start of one's own (after draft-eastlake-fnv). */
const fnv = (text: string, start: number): number => {
  let hash = start;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash >>> 0;
};

/** A short name for a text, 64 bits in hex: two texts have the same only by accident. */
export const fingerprint = (text: string): string => hex(fnv(text, 0x811c9dc5)) + hex(fnv(text, 0x9e3779b9));

const hex = (value: number): string => (value >>> 0).toString(16).padStart(8, '0');

/**
 * Sums up which change each record stands at, removed ones included. Two that hold the same give the same; two that do
 * not, almost never do: it is against accidents, not against somebody who wants them to look alike.
 */
export const digestOf = (
  records: Iterable<{ readonly kind: RecordKind; readonly record: string; readonly change: string }>,
): Digest => {
  const sums = new Map<RecordKind, { count: number; high: number; low: number }>();
  for (const { kind, record, change } of records) {
    const sum = sums.get(kind) ?? { count: 0, high: 0, low: 0 };
    const text = `${record} ${change}`;
    sum.count += 1;
    sum.high ^= fnv(text, 0x811c9dc5);
    sum.low ^= fnv(text, 0x01234567);
    sums.set(kind, sum);
  }
  return Object.fromEntries(
    [...sums].map(([kind, { count, high, low }]) => [kind, { count, sum: hex(high) + hex(low) }]),
  );
};

/** The kinds of which two digests do not say the same. */
export const differingKinds = (a: Digest, b: Digest): RecordKind[] => {
  // Both have kinds of records as their keys.
  const kinds = new Set([...Object.keys(a), ...Object.keys(b)] as RecordKind[]);
  return [...kinds].filter((kind) => a[kind]?.count !== b[kind]?.count || a[kind]?.sum !== b[kind]?.sum);
};
