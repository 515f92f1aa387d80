import type { SourceRecord } from './products.ts';

/** True for a source whose visits come by mail. */
export const comesByMail = ({ channel }: Pick<SourceRecord, 'channel'>): boolean =>
  channel.trim().toLowerCase() === 'mail';

/**
 * The name a source counts under: its own, or the one of which it is a slip. Slips of slips count under the last; two that name each
 * other keep their own.
 */
export const sourceNames = (records: readonly SourceRecord[]): ((name: string) => string) => {
  const into = new Map(
    records.flatMap(({ source, as }) => (as === undefined || as === source ? [] : [[source, as] as const])),
  );
  if (into.size === 0) return (name) => name;
  const ends = new Map<string, string>();
  for (const name of into.keys()) {
    const seen = new Set<string>();
    let end = name;
    for (let next = into.get(end); next !== undefined && !seen.has(end); next = into.get(end)) {
      seen.add(end);
      end = next;
    }
    ends.set(name, into.has(end) ? name : end);
  }
  return (name) => ends.get(name) ?? name;
};
