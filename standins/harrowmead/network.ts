import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** An offer of a merchant, with its commission in percent of the sale. */
export interface Offer {
  readonly deal: string;
  readonly merchant: string;
  readonly percent: number;
}

export const offers: readonly Offer[] = [
  { deal: '2093', merchant: 'Polehouse Optics', percent: 8 },
  { deal: '2111', merchant: 'Cindermitt', percent: 6 },
];

/** The accounts there are. A link with another account works all the same and credits nobody. */
export const accounts = ['nl-4471', 'nl-5520'] as const;

export type State = 'open' | 'confirmed' | 'cancelled' | 'settled';

export interface Click {
  readonly number: string;
  readonly at: number;
  readonly account: string;
  readonly deal: string;
  readonly ref1: string;
  readonly ref2: string;
  readonly visitor: string;
}

export interface Transaction {
  readonly order: string;
  readonly click: string;
  readonly at: number;
  readonly saleCents: number;
  readonly commissionCents: number;
  state: State;
  /** When it took its present state. */
  changedAt: number;
}

/** One try to deliver a postback. */
export interface Delivery {
  readonly at: number;
  readonly order: string;
  readonly state: State;
  readonly url: string;
  readonly attempt: number;
  /** HTTP status, or why there was none. */
  readonly answer: string;
}

interface Books {
  clicks: Click[];
  transactions: Transaction[];
  deliveries: Delivery[];
  /** Postback addresses by account, and by `account/deal` for one offer. */
  postbacks: Record<string, string>;
}

/** Most characters a sub-ID slot keeps. */
export const slotLength = 26;
const sameClickMs = 10 * 60_000;

/** The network's books: what it counted, what was sold, whom it told. Kept in one file. */
export class Network {
  readonly #path: string;
  readonly #books: Books;

  constructor(path: string) {
    this.#path = path;
    this.#books = read(path);
  }

  get clicks(): readonly Click[] {
    return this.#books.clicks;
  }
  get transactions(): readonly Transaction[] {
    return this.#books.transactions;
  }
  get deliveries(): readonly Delivery[] {
    return this.#books.deliveries;
  }
  get postbacks(): Readonly<Record<string, string>> {
    return this.#books.postbacks;
  }

  /**
   * Counts a click by the network's own rule: the same visitor on the same offer counts once in ten minutes. The
   * sub-IDs of the newest click stand.
   */
  click(click: Omit<Click, 'number'>): Click {
    const again = this.#books.clicks.findIndex(
      (c) => c.visitor === click.visitor && c.deal === click.deal && click.at - c.at < sameClickMs,
    );
    const before = this.#books.clicks[again];
    const kept: Click = {
      ...click,
      ref1: click.ref1.slice(0, slotLength),
      ref2: click.ref2.slice(0, slotLength),
      number: before?.number ?? `hm${(70_001 + this.#books.clicks.length).toString()}`,
    };
    if (again >= 0) this.#books.clicks[again] = kept;
    else this.#books.clicks.push(kept);
    this.#save();
    return kept;
  }

  /** Books a sale a shop reported for one of our clicks; undefined when the click is nobody's. */
  sale(clickNumber: string, saleCents: number, at: number): Transaction | undefined {
    const click = this.#books.clicks.find((c) => c.number === clickNumber);
    const offer = offers.find((o) => o.deal === click?.deal);
    if (!click || !offer) return undefined;
    const transaction: Transaction = {
      order: `HM-${this.#nextOrder()}`,
      click: click.number,
      at,
      saleCents,
      commissionCents: Math.round((saleCents * offer.percent) / 100),
      state: 'open',
      changedAt: at,
    };
    this.#books.transactions.push(transaction);
    this.#save();
    return transaction;
  }

  #nextOrder(): number {
    const numbers = this.#books.transactions.map(({ order }) => Number(order.slice(3)));
    return numbers.reduce((most, number) => Math.max(most, number), 881_203) + 1;
  }

  /** Moves a transaction to a state; undefined when there is no such order. */
  settle(order: string, state: State, at: number): Transaction | undefined {
    const transaction = this.#books.transactions.find((t) => t.order === order);
    if (!transaction) return undefined;
    transaction.state = state;
    transaction.changedAt = at;
    this.#save();
    return transaction;
  }

  /** Sets the postback address of an account, or of one of its offers; an empty one takes it away. */
  setPostback(account: string, deal: string, url: string): void {
    const key = deal === '' ? account : `${account}/${deal}`;
    const others = Object.entries(this.#books.postbacks).filter(([name]) => name !== key);
    this.#books.postbacks = Object.fromEntries(url === '' ? others : [...others, [key, url]]);
    this.#save();
  }

  delivered(delivery: Delivery): void {
    this.#books.deliveries.push(delivery);
    this.#save();
  }

  #save(): void {
    mkdirSync(dirname(this.#path), { recursive: true });
    writeFileSync(`${this.#path}.new`, JSON.stringify(this.#books));
    renameSync(`${this.#path}.new`, this.#path);
  }
}

/** Writes books for a network that has a past, before it is opened. */
export const writeBooks = (
  path: string,
  past: Pick<Books, 'clicks' | 'transactions' | 'postbacks'>,
): void => {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, JSON.stringify({ deliveries: [], ...past } satisfies Books));
};

const read = (path: string): Books => {
  const empty: Books = { clicks: [], transactions: [], deliveries: [], postbacks: {} };
  try {
    const kept: unknown = JSON.parse(readFileSync(path, 'utf8'));
    return { ...empty, ...(kept as Books) }; // the file is this class's own
  } catch {
    return empty;
  }
};
