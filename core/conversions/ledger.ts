import type { PostbackProfile, Status } from '#core/catalogue';
import type { Unverified } from '#core/visits';
import type { Minor } from '#core/values';
import type { ConversionEvent } from './postback.ts';

/** One step in a conversion's life. */
export interface Step {
  readonly at: number;
  readonly arrived: number;
  readonly seq: number;
  readonly status: Status;
  readonly amount: Minor | null;
  /** What the step did: the first, a change of state, a change of amount, or a repeat that was folded. */
  readonly did: 'first' | 'state' | 'amount' | 'repeat';
}

/** A lead or sale with its history. */
export interface Conversion {
  /**
   * Network, transaction and event, and first time where the event recurs; without a transaction, network, click, event,
   * amount and first time.
   */
  readonly id: string;
  readonly network: string;
  readonly click: string;
  /** The placeholder that came instead of a click ID each time. */
  readonly unfilled?: string;
  readonly event: string;
  readonly txn: string;
  readonly currency: string;
  readonly status: Status;
  /** Minor units; null when no amount ever came. */
  readonly amount: Minor | null;
  /** When it first happened. */
  readonly at: number;
  readonly steps: readonly Step[];
  /** How many postbacks said nothing new. */
  readonly repeats: number;
  /** Its newest amount came without decimals, in a currency that has some. */
  readonly whole: boolean;
  /** Nothing of it came from somebody who is known to be the network, and why. */
  readonly unverified?: Unverified;
  /** What its amount would be were its last digits the decimals, where that is what its like usually are. */
  readonly odd?: Minor;
  /** A person said that it counts, or that its amount is the odd one. */
  readonly trusted?: true;
  readonly corrected?: true;
}

const rank: Readonly<Record<Status, number>> = { pending: 0, approved: 1, paid: 2, reversed: 3 };
const chainGap = 24 * 3600_000;

/** What of a network's profile decides which events are one conversion, and what it is worth. */
export type Folding = Pick<PostbackProfile, 'amounts' | 'recurs'>;

const inOrder = (a: ConversionEvent, b: ConversionEvent): number =>
  a.at - b.at ||
  rank[a.status] - rank[b.status] ||
  (a.amount ?? -Infinity) - (b.amount ?? -Infinity) ||
  compareText(a.click, b.click) ||
  compareText(a.currency, b.currency) ||
  a.seq - b.seq;

const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

const keyOf = (e: ConversionEvent): string =>
  JSON.stringify(
    e.txn === ''
      ? [e.network, 'click', e.click.toUpperCase(), e.event, e.amount, e.currency]
      : [e.network, 'txn', e.txn, e.event],
  );

const addAmount = (
  before: Minor | null,
  now: Minor | null,
  how: PostbackProfile['amounts'],
): Minor | null => {
  if (now === null) return before;
  return how === 'add' && before !== null ? before + now : now;
};

const fold = (
  id: string,
  events: readonly ConversionEvent[],
  how: PostbackProfile['amounts'],
): Conversion => {
  const [first, ...rest] = events;
  if (!first) throw new Error('A conversion has at least one event.');
  const steps: Step[] = [];
  let { status, amount, click, unfilled, currency, whole } = first;
  let repeats = 0;
  const step = (event: ConversionEvent, did: Step['did']) =>
    steps.push({ at: event.at, arrived: event.arrived, seq: event.seq, status, amount, did });
  step(first, 'first');
  const seen = new Set([`${first.status} ${first.amount} ${first.at}`]);
  for (const event of rest) {
    if (click === '') click = event.click;
    unfilled ??= event.unfilled;
    // Adding would count a postback that arrives twice double, so the very same word is a repeat either way.
    const same = `${event.status} ${event.amount} ${event.at}`;
    const known = event.currency === currency || event.amount === null;
    const next = seen.has(same) || !known ? amount : addAmount(amount, event.amount, how);
    seen.add(same);
    if (event.amount !== null && amount === null) currency = event.currency;
    if (event.amount !== null) ({ whole } = event);
    const moved = event.status !== status;
    const priced = next !== amount;
    status = event.status;
    amount = next;
    if (!moved && !priced) repeats += 1;
    step(event, moved ? 'state' : priced ? 'amount' : 'repeat');
  }
  return {
    id,
    network: first.network,
    click,
    ...(click === '' && unfilled !== undefined && { unfilled }),
    event: first.event,
    txn: first.txn,
    currency,
    status,
    amount,
    at: first.at,
    steps,
    repeats,
    whole,
    ...(first.unverified && { unverified: first.unverified }),
  };
};

/**
 * Folds events into conversions. States are ordered by the network's own time and then by rank, so the order
 * in which postbacks arrived does not matter. Gives them by time, then ID.
 *
 * @param folding tells per network whether a new amount replaces the one before or is added to it, and what recurs
 */
export const makeLedger = (
  events: readonly ConversionEvent[],
  folding: (network: string) => Folding = () => ({ amounts: 'replace' }),
): Conversion[] => {
  const groups = new Map<string, ConversionEvent[]>();
  for (const event of events) {
    const key = keyOf(event);
    const group = groups.get(key);
    if (group) group.push(event);
    else groups.set(key, [event]);
  }
  const ledger: Conversion[] = [];
  for (const [key, group] of groups) {
    // What anybody could have sent changes nothing of what the network said.
    const verified = group.filter((event) => event.unverified === undefined);
    const counted = (verified.length > 0 ? verified : group).sort(inOrder);
    const [first] = counted;
    if (!first) continue;
    const { amounts: how, recurs } = folding(first.network);
    const recurring = recurs?.includes(first.event) ?? false;
    if (first.txn !== '' && !recurring) {
      ledger.push(fold(key, counted, how));
      continue;
    }
    // Without a transaction, events alike are one conversion as long as less than a day lies between them. One that
    // recurs begins anew after a day, unless it only moves on what came last.
    let chain: ConversionEvent[] = [];
    const close = () => {
      const [start] = chain;
      if (start) ledger.push(fold(`${key}@${start.at}`, chain, how));
    };
    for (const event of counted) {
      const previous = chain.at(-1);
      const movesOn = recurring && previous && rank[event.status] > rank[previous.status];
      if (previous && event.at - previous.at >= chainGap && !movesOn) {
        close();
        chain = [];
      }
      chain.push(event);
    }
    close();
  }
  return ledger.sort((a, b) => a.at - b.at || compareText(a.id, b.id));
};
