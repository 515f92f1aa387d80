import type { ClosedMonth } from '#core/catalogue';
import { checksumText } from '#core/reconcile';

/** SHA-256 of a text in hex. */
const sha256 = async (text: string): Promise<string> => {
  const digest = await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text));
  return Array.from(new Uint8Array(digest), (byte) => byte.toString(16).padStart(2, '0')).join('');
};

/** A month's figures with their checksum, as a record. */
export const closed = async (
  figures: Omit<ClosedMonth, 'id' | 'at' | 'checksum'>,
  id: string,
  at: number,
): Promise<ClosedMonth> => ({ ...figures, id, at, checksum: await sha256(checksumText(figures)) });

/** True when the figures of a closed month still fit their checksum. */
export const isIntact = async (month: ClosedMonth): Promise<boolean> =>
  (await sha256(checksumText(month))) === month.checksum;
