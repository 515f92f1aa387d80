import type { PostbackProfile, Status } from '#core/catalogue';
import type { Unverified } from '#core/visits';
import type { Minor } from '#core/values';
import { writeAmount } from '#core/values';
import type { ConversionEvent } from './postback.ts';

/** One step in a conversion's life. */
export interface Step {
  readonly at: number;
  readonly arrived: number;
  readonly seq: number;
  readonly status: Status;
  readonly amount: Minor | null;
  /** What the step did: the first, a change of state, a change of amount, money taken back, or a repeat that was folded. */
  readonly did: 'first' | 'state' | 'amount' | 'refund' | 'repeat';
}

/** What a conversion's postbacks leave open, and the other way to read them. */
export interface Doubt {
  /** A plain sentence. */
  readonly because: string;
  readonly amount: Minor;
  readonly currency: string;
  readonly status: Status;
  /** In a few words, that it stays as it stands now. */
  readonly otherwise: string;
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
  /** Minor units, refunds taken off; null when no amount ever came. */
  readonly amount: Minor | null;
  /** When it first happened. */
  readonly at: number;
  /** The time it said, where that lay more than a day after its arrival. */
  readonly ahead?: number;
  readonly steps: readonly Step[];
  /** How many postbacks said nothing new. */
  readonly repeats: number;
  /** Its newest amount came without decimals, in a currency that has some. */
  readonly whole: boolean;
  /** It only takes back: of the sale itself no postback came. */
  readonly refundOnly?: true;
  /** Its postbacks can be read in two ways. */
  readonly doubt?: Doubt;
  /** Nothing of it came from somebody who is known to be the network, and why. */
  readonly unverified?: Unverified;
  /** What its amount would be were its last digits the decimals, where that is what its like usually are. */
  readonly odd?: Minor;
  /** A person said that it counts, or that its amount is the odd one or the doubtful one. */
  readonly trusted?: true;
  readonly corrected?: true;
}

const rank: Readonly<Record<Status, number>> = { pending: 0, approved: 1, paid: 2, reversed: 3 };

/** True where one state lies behind another on the way from pending to reversed. */
export const isLater = (status: Status, than: Status): boolean => rank[status] > rank[than];

export const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** True for a word that takes money back. */
export const takesBack = ({ amount }: Pick<ConversionEvent, 'amount'>): boolean =>
  amount !== null && amount < 0;

/** By the network's own time, then by state; of one time what takes back comes last. Arrival decides nothing. */
export const inOrder = (a: ConversionEvent, b: ConversionEvent): number =>
  a.at - b.at ||
  Number(takesBack(a)) - Number(takesBack(b)) ||
  rank[a.status] - rank[b.status] ||
  (a.amount ?? -Infinity) - (b.amount ?? -Infinity) ||
  compareText(a.click, b.click) ||
  compareText(a.currency, b.currency) ||
  compareText(a.txn, b.txn) ||
  a.seq - b.seq;

/** A network that sends no times sends the same again within so long when it got no answer. */
const againMs = 60_000;

/** Remembers what was said, to know it when it is said again. */
class Said {
  readonly #exact = new Set<string>();
  readonly #last = new Map<string, number>();

  /** True where the very same was said before: of the same time, or without one and within a minute. */
  again({ status, amount, currency, at, timed }: ConversionEvent): boolean {
    const word = `${status} ${amount} ${currency}`;
    const before = this.#last.get(word);
    const again =
      this.#exact.has(`${word} ${at}`) || (!timed && before !== undefined && at - before <= againMs);
    this.#exact.add(`${word} ${at}`);
    if (!timed && (before === undefined || !again)) this.#last.set(word, at);
    return again;
  }
}

/** An amount that was said by itself, where amounts are added. */
interface Part {
  readonly amount: Minor;
  status: Status;
}

/** What stands after the words that were taken so far. */
class Standing {
  status: Status;
  amount: Minor | null = null;
  currency: string;
  whole = false;
  doubt: Doubt | undefined;
  readonly #how: PostbackProfile['amounts'];
  readonly #said = new Said();
  readonly #parts: Part[] = [];
  /** What stood before refunds were taken off it. */
  #gross: Minor = 0;
  #refunds: Minor = 0;
  /** Refunds that came before any sale. */
  #early: Minor = 0;
  #hasSaleWithoutAmount = false;
  /** The word before moved on one of several amounts. */
  #partMoved = false;
  readonly #refunded = new Set<Minor>();
  #doubted: Minor = 0;

  constructor(first: ConversionEvent, how: PostbackProfile['amounts']) {
    this.status = first.status;
    this.currency = first.currency;
    this.#how = how;
  }

  /** Money came that was earned, not only such as was taken back. */
  get hasSale(): boolean {
    return this.amount !== null;
  }

  /** The refunds that stand alone, where no sale came. */
  get onlyRefunds(): Minor {
    return this.hasSale || this.#hasSaleWithoutAmount ? 0 : this.#early;
  }

  /** Takes the next word, and tells what it did. */
  take(event: ConversionEvent): Step['did'] {
    const again = this.#said.again(event);
    const { status, amount } = this;
    this.#partMoved = false;
    if (event.amount !== null && this.#isForeign(event)) {
      if (!again && !takesBack(event)) this.status = event.status;
      if (!again) this.#doubtCurrency(event);
    } else if (takesBack(event)) {
      if (!again) this.#takeBack(event.amount ?? 0);
    } else this.#takeSale(event, again);
    if (this.status !== status || this.#partMoved) return 'state';
    if (this.amount === amount) return 'repeat';
    return takesBack(event) ? 'refund' : 'amount';
  }

  #isForeign({ currency }: ConversionEvent): boolean {
    return (this.amount !== null || this.#early !== 0) && currency !== this.currency;
  }

  #doubtCurrency({ amount, currency, status }: ConversionEvent): void {
    if (amount === null || amount === 0) return;
    const stands = writeAmount(this.amount ?? this.#early, this.currency);
    this.doubt = {
      because: `${stands} ${this.currency} came first, and ${writeAmount(amount, currency)} ${currency} later under the same transaction.`,
      amount: takesBack({ amount }) ? (this.amount ?? 0) : amount,
      currency: takesBack({ amount }) ? this.currency : currency,
      status: takesBack({ amount }) ? 'reversed' : status,
      otherwise: `${stands} ${this.currency} stands`,
    };
  }

  #takeBack(refund: Minor): void {
    const text = `${writeAmount(refund, this.currency)} ${this.currency}`;
    if (this.#refunded.has(refund)) {
      this.#doubted += refund;
      const left = (this.amount ?? this.#early) + this.#doubted;
      this.doubt = {
        because: `${text} came again at another time: a second refund, or the same sent again.`,
        amount: left,
        currency: this.currency,
        status: left > 0 || !this.hasSale ? this.status : 'reversed',
        otherwise: 'It is the same refund',
      };
      return;
    }
    this.#refunded.add(refund);
    if (this.amount === null) {
      this.#early += refund;
      this.#doubtUnknown();
      return;
    }
    const { status } = this;
    const stood = this.amount;
    this.#refunds += refund;
    this.#setAmount(stood + refund);
    if (this.amount < 0 && stood >= 0)
      this.doubt = {
        because: `${text} takes back more than the ${writeAmount(stood, this.currency)} ${this.currency} that stood.`,
        amount: this.amount,
        currency: this.currency,
        status: status === 'reversed' ? 'approved' : status,
        otherwise: 'The sale is worth nothing',
      };
  }

  /** Nobody knows how much of a sale is left that came without an amount. */
  #doubtUnknown(): void {
    if (this.amount !== null || this.#early === 0 || !this.#hasSaleWithoutAmount) return;
    this.doubt = {
      because: `${writeAmount(this.#early, this.currency)} ${this.currency} was taken back from a sale that came without an amount.`,
      amount: 0,
      currency: this.currency,
      status: 'reversed',
      otherwise: 'The sale stands',
    };
  }

  /** What nothing is left of is reversed. */
  #setAmount(amount: Minor): asserts this is { amount: Minor } {
    this.amount = amount;
    if (amount <= 0 && this.#refunds < 0) this.status = 'reversed';
  }

  #takeSale(event: ConversionEvent, again: boolean): void {
    const { amount, status } = event;
    if (amount === null) {
      this.status = status;
      this.#hasSaleWithoutAmount = true;
      this.#doubtUnknown();
      if (status === 'reversed') {
        for (const part of this.#parts) part.status = status;
        this.doubt = undefined;
      }
      return;
    }
    this.whole = event.whole;
    if (this.amount === null) {
      this.status = status;
      this.currency = event.currency;
      this.#gross = amount;
      this.#parts.push({ amount, status });
      this.#refunds = this.#early;
      if (this.#hasSaleWithoutAmount && this.#early !== 0) this.doubt = undefined;
      this.#setAmount(amount + this.#early);
      return;
    }
    if (this.#how === 'add') {
      if (!again) this.#add(amount, status);
      return;
    }
    if (this.#refunds !== 0 && amount === this.#gross && amount !== this.amount) {
      // The whole amount again, after a part of it was taken back: most likely the state alone is new.
      const { amount: stands } = this;
      if (stands > 0 || status === 'reversed') this.status = status;
      if (!again && status !== 'reversed')
        this.doubt = {
          because: `${writeAmount(amount, this.currency)} ${this.currency} came again after a refund: with the refund taken off, ${writeAmount(stands, this.currency)} stand.`,
          amount,
          currency: this.currency,
          status,
          otherwise: 'The refund stands',
        };
      return;
    }
    this.status = status;
    if (amount === this.amount) return;
    this.#gross = amount;
    this.#refunds = 0;
    this.amount = amount;
    this.doubt = undefined;
  }

  /** Takes an amount that speaks of itself alone: a new one, or one that was said before and is in another state now. */
  #add(amount: Minor, status: Status): void {
    const standing = this.#parts.filter((part) => part.status !== 'reversed');
    const whole = standing.reduce((sum, part) => sum + part.amount, 0);
    const same = this.#parts.find((part) => part.amount === amount && part.status !== status);
    this.#partMoved = same !== undefined;
    if (same) same.status = status;
    else if (amount === whole && this.#parts.some((part) => part.status !== status))
      for (const part of standing) part.status = status;
    else if (status === 'reversed') {
      // Nobody knows of which amounts this is one.
      this.status = status;
      this.doubt = {
        because: `${writeAmount(amount, this.currency)} ${this.currency} was reversed, of amounts that come to ${writeAmount(whole, this.currency)} and hold none like it.`,
        amount: whole + this.#refunds - amount,
        currency: this.currency,
        status: standing[0]?.status ?? 'pending',
        otherwise: 'All of it is reversed',
      };
      return;
    } else this.#parts.push({ amount, status });
    const left = this.#parts.filter((part) => part.status !== 'reversed');
    this.#gross = left.reduce((sum, part) => sum + part.amount, 0);
    if (left.length === 0) this.status = 'reversed';
    else {
      if (status !== 'reversed') this.status = status;
      this.#setAmount(this.#gross + this.#refunds);
    }
  }
}

/** What most conversions are: one event that takes nothing back. */
const ofOne = (
  id: string,
  { network, click, unfilled, event, txn, currency, status, amount, at, ...more }: ConversionEvent,
): Conversion => ({
  id,
  network,
  click,
  ...(click === '' && unfilled !== undefined && { unfilled }),
  event,
  txn,
  currency,
  status,
  amount,
  at,
  ...(more.ahead !== undefined && { ahead: more.ahead }),
  steps: [{ at, arrived: more.arrived, seq: more.seq, status, amount, did: 'first' }],
  repeats: 0,
  whole: amount !== null && more.whole,
  ...(more.unverified && { unverified: more.unverified }),
});

/**
 * Makes one conversion of its events, in their order.
 *
 * A negative amount takes back from what stands, whatever its own state is; what nothing is left of is reversed. Where amounts
 * replace, the newest stands; where they are added, an amount that was said before in another state moves on and adds nothing.
 *
 * @param events at least one
 * @throws Error where there is none
 */
export const fold = (
  id: string,
  events: readonly ConversionEvent[],
  how: PostbackProfile['amounts'],
): Conversion => {
  const [first] = events;
  if (!first) throw new Error('A conversion has at least one event.');
  if (events.length === 1 && !takesBack(first)) return ofOne(id, first);
  const standing = new Standing(first, how);
  const steps: Step[] = [];
  let { click, unfilled } = first;
  let repeats = 0;
  for (const event of events) {
    if (click === '') ({ click } = event);
    unfilled ??= event.unfilled;
    const did = standing.take(event);
    const isFirst = steps.length === 0;
    if (did === 'repeat' && !isFirst) repeats += 1;
    const { status } = standing;
    const amount = standing.onlyRefunds === 0 ? standing.amount : standing.onlyRefunds;
    steps.push({
      at: event.at,
      arrived: event.arrived,
      seq: event.seq,
      status,
      amount,
      did: isFirst ? 'first' : did,
    });
  }
  const { doubt, currency, whole } = standing;
  const refundOnly = standing.onlyRefunds !== 0;
  const { ahead } = first;
  return {
    id,
    network: first.network,
    click,
    ...(click === '' && unfilled !== undefined && { unfilled }),
    event: first.event,
    txn: first.txn,
    currency,
    // Money that is taken back is worth what it takes back, whatever its state is called.
    status: refundOnly && standing.status === 'reversed' ? 'approved' : standing.status,
    amount: refundOnly ? standing.onlyRefunds : standing.amount,
    at: first.at,
    ...(ahead !== undefined && { ahead }),
    steps,
    repeats,
    whole,
    ...(refundOnly && { refundOnly }),
    ...(doubt && { doubt }),
    ...(first.unverified && { unverified: first.unverified }),
  };
};
