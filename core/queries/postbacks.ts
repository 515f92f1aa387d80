import type { ReadPostback } from '#core/conversions';
import { readPostback } from '#core/conversions';
import type { Match } from '#core/reconcile';
import { matchClick } from '#core/reconcile';
import type { PostbackRecord } from '#core/visits';
import type { Dataset } from './dataset.ts';

/** A postback as it came, how it was read, and the click it leads to. */
export interface PostbackReading {
  readonly record: PostbackRecord;
  readonly read: ReadPostback;
  readonly match: Match;
  /** Link and ID of the click; empty where none was found. */
  readonly link: string;
  readonly click: string;
  /** When the very same came first. */
  readonly firstAt?: number;
}

/** When each network last sent a postback. */
export const lastPostbacks = ({ journal }: Dataset): Map<string, number> =>
  // A sample of one's own proves nothing of the network, nor does what anybody could have sent.
  new Map(
    journal.postbacks
      .filter(({ sample, unverified }) => sample !== true && unverified === undefined)
      .map((record) => [record.network, record.at]),
  );

/** The newest postbacks of a network with their reading and match, newest first. */
export const postbacksOf = (data: Dataset, network: string, most: number): PostbackReading[] => {
  const { reads, units } = data.reconciled;
  const ofNetwork = data.journal.postbacks.filter((record) => record.network === network);
  const newest = ofNetwork.slice(-most).reverse();
  const seqs = new Set(newest.map((record) => record.seq));
  const matches = new Map<number, Match>();
  for (const { conversion, match } of units)
    for (const step of conversion?.steps ?? []) if (seqs.has(step.seq)) matches.set(step.seq, match);
  const clicks = data.clicks();
  const profile = data.records.networks.find(({ id }) => id === network);
  const firsts = new Map<string, number>();
  const firstAt = new Map<number, number>();
  for (const record of ofNetwork) {
    const text = `${record.query} ${record.body ?? ''}`;
    const at = firsts.get(text);
    if (at !== undefined) firstAt.set(record.seq, at);
    else if (!record.sample) firsts.set(text, record.at);
  }
  return newest.map((record): PostbackReading => {
    const read =
      reads.get(record.seq) ??
      readPostback(record, profile?.postback ?? { fields: {}, statuses: {} }, profile?.currency ?? 'EUR');
    const match = matches.get(record.seq) ?? matchClick(read.raw.click ?? '', network, clicks);
    const first = firstAt.get(record.seq);
    return {
      record,
      read,
      match,
      link: match.row >= 0 ? clicks.link(match.row) : '',
      click: match.row >= 0 ? clicks.click(match.row) : '',
      ...(first !== undefined && { firstAt: first }),
    };
  });
};

/** Conversions of a network that two of its addresses reported, by program: how many, and when last. */
export const firedTwice = (
  data: Dataset,
  network: string,
): Map<string, { readonly count: number; readonly last: number }> => {
  const found = new Map<string, { count: number; last: number }>();
  for (const unit of data.reconciled.units) {
    if (unit.network !== network || unit.cause !== 'sent twice' || !unit.conversion) continue;
    const { count, last } = found.get(unit.program) ?? { count: 0, last: -Infinity };
    found.set(unit.program, { count: count + 1, last: Math.max(last, unit.conversion.at) });
  }
  return found;
};

/** When a network last sent by a key that was rolled. */
export const lastByOldKey = ({ journal }: Dataset, network: string): number | undefined =>
  journal.postbacks.findLast((record) => record.network === network && record.oldKey === true)?.at;
