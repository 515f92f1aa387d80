import { clickId } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import { hopRecord, postbackRecord } from '../../visits/testing/records.ts';

/**
 * A season of visits half a minute apart, each of another visitor, of which some buy for ten euros after a delay.
 *
 * @param now what would come later has not come; milliseconds since 1970 UTC
 */
export const seasonOf = (
  now: number,
  parts: readonly {
    readonly source: string;
    readonly day: string;
    readonly visits: number;
    readonly sales: number;
    /** Days until a sale comes; a list is gone through again and again. */
    readonly after?: readonly number[];
    readonly status?: string;
    /** Days from the sale until that state; it is pending till then. */
    readonly decided?: number;
    readonly ua?: string;
    /** A link of the worlds, and its network. */
    readonly of?: string;
  }[],
): JournalRecord[] => {
  const drafts: { at: number; make: (seq: number) => JournalRecord }[] = [];
  let n = 0;
  for (const {
    source,
    day,
    visits,
    sales,
    after = [0],
    status = 'done',
    of = 'a',
    decided = 0,
    ua = 'Mozilla/5.0 (X11; Linux x86_64)',
  } of parts)
    for (let i = 0; i < visits; i++) {
      const at = Date.parse(`${day}T06:00:00Z`) + i * 30_000;
      n += 1;
      const click = clickId(
        at,
        new Uint8Array(10).map((_, k) => (n >> (8 * (k % 4))) & 255),
      );
      const visitor = n.toString(16).padStart(16, '0');
      drafts.push({
        at,
        make: (seq) => hopRecord({ seq, at, click, link: `lnk_${of}`, source, visitor, ua }),
      });
      // Those who buy are spread over all who came.
      const sale = Math.floor(((i + 1) * sales) / visits);
      if (sale === Math.floor((i * sales) / visits)) continue;
      const then = at + 60_000 + (after[sale % after.length] ?? 0) * 86_400_000;
      if (then > now) continue;
      const txn = `T${n}`;
      const say = (when: number, state: string) => {
        const query = `click=${click}&txn=${txn}&amount=10&currency=EUR&status=${state}&event=sale`;
        drafts.push({
          at: when,
          make: (seq) => postbackRecord({ seq, at: when, network: `net_${of}`, query }),
        });
      };
      if (decided > 0) say(then, 'pending');
      say(then + decided * 86_400_000, status);
    }
  return drafts.sort((a, b) => a.at - b.at).map(({ make }, i) => make(i + 1));
};
