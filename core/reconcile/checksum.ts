import type { ClosedMonth } from '#core/catalogue';

const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([name, value]) => [name, sorted(value)]),
        )
      : value;

/** A closed month, with or without what says who closed it when: two people who close the same figures agree. */
type Figures = Omit<ClosedMonth, 'id' | 'at' | 'seal' | 'checksum'> & Partial<ClosedMonth>;

/**
 * The text a month's checksum is taken over: its record without `id`, `at`, `seal` and `checksum` as JSON, the names of every
 * object in the order of their code units. A month closed before its whole balance was kept has it over its sums and rows only.
 */
export const checksumText = ({ id: _, at: __, seal: ___, checksum: ____, ...month }: Figures): string => {
  if (month.shown) return JSON.stringify(sorted(month));
  const { network, month: name, conversions, ours, theirs, rows } = month;
  return JSON.stringify(sorted({ network, month: name, conversions, ours, theirs, rows }));
};

/** The checksum of a month: SHA-256 of its text in UTF-8, in hex. */
export const checksumOf = async (month: Figures): Promise<string> => {
  const digest = await crypto.subtle.digest('SHA-256', new TextEncoder().encode(checksumText(month)));
  return Array.from(new Uint8Array(digest), (byte) => byte.toString(16).padStart(2, '0')).join('');
};

/** True when the figures of a closed month still fit their checksum. */
export const isIntact = async (month: ClosedMonth): Promise<boolean> =>
  (await checksumOf(month)) === month.checksum;
