import type { LinkShape } from './linkShape.ts';

/** States every network knows; each has words of its own for them. */
export const states = ['pending', 'approved', 'reversed', 'paid'] as const;
export type State = (typeof states)[number];

/** Money as minor units of a currency. */
export interface Amount {
  readonly minor: number;
  readonly currency: string;
}

/** An offer of a merchant, and what it pays for a sale or another event. */
export interface Offer {
  readonly code: string;
  readonly merchant: string;
  readonly pays: (sale: Amount, event: string) => Amount;
}

export interface Click {
  readonly number: string;
  readonly at: number;
  readonly account: string;
  readonly offer: string;
  /** What stood in the sub-ID slots, by their names. */
  readonly slots: Readonly<Record<string, string>>;
  readonly visitor: string;
}

export interface Transaction {
  readonly order: string;
  readonly click: string;
  readonly at: number;
  readonly event: string;
  readonly sale: Amount;
  commission: Amount;
  state: State;
  /** When it took its present state or amount. */
  changedAt: number;
}

/** One line of a report, before it is written in a network's own way. */
export interface StatementRow {
  readonly order: string;
  readonly at: number;
  readonly offer: string;
  readonly merchant: string;
  /** The sub-IDs as the network kept them, in the order of its slots. */
  readonly slots: readonly string[];
  readonly event: string;
  readonly state: State;
  readonly commission: Amount;
}

/** What tells one simulated network from another: its addresses, its words, and where it is awkward. */
export interface Kind {
  /** Names its books. */
  readonly id: string;
  readonly name: string;
  readonly host: string;
  readonly colour: string;
  /** The accounts there are; a link with another one works all the same and credits nobody. */
  readonly accounts: readonly [string, ...string[]];
  readonly offers: readonly Offer[];
  /** Name under which a shop gets the network's click number. */
  readonly clickName: string;
  readonly firstClick: number;
  readonly firstOrder: number;
  readonly orderOf: (number: number) => string;
  readonly slots: readonly string[];
  /** What it keeps of a sub-ID in one of its slots. */
  readonly keeps: (subId: string, slot: string) => string;
  /** Its tracking links. */
  readonly shape: LinkShape;
  /** Its tracking links are the shop's own pages. */
  readonly isOwnShop?: boolean;
  readonly words: Readonly<Record<State, string>>;
  /** Its placeholders in an address; the name is the first group. */
  readonly placeholder: RegExp;
  /** How its placeholders look, for a person who sets an address. */
  readonly placeholders: readonly string[];
  /** What its help page says of them. */
  readonly help?: string;
  /** What its placeholders stand for. */
  readonly values: (transaction: Transaction, click: Click, word: string) => Readonly<Record<string, string>>;
  readonly via: 'GET' | 'POST';
  /** Whether it tells of a state at all. */
  readonly tells: (state: State) => boolean;
  /** Every so many deliveries it does not notice that it was answered, and sends again. */
  readonly deafEvery: number;
  /** Every so many orders that a person approves, it reverses one instead. */
  readonly reversesEvery: number;
  readonly report: {
    readonly file: string;
    readonly head: string;
    readonly line: (row: StatementRow) => string;
  };
}

/** Minor units as plain decimals: cents have two, yen none. */
export const decimals = ({ minor, currency }: Amount): string =>
  currency === 'JPY' ? String(minor) : (minor / 100).toFixed(2);

/** A share of a sale, in hundredths. */
export const percent =
  (hundredths: number) =>
  ({ minor, currency }: Amount): Amount => ({ minor: Math.round((minor * hundredths) / 100), currency });

/** The same for every one of an event. */
export const fixed =
  (byEvent: Readonly<Record<string, number>>, currency: string) =>
  (_sale: Amount, event: string): Amount => ({ minor: byEvent[event] ?? 0, currency });
