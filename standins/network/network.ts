import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Amount, Click, Kind, State, Transaction } from './kind.ts';

/** One try to deliver a postback. */
export interface Delivery {
  readonly at: number;
  readonly order: string;
  readonly state: State;
  readonly url: string;
  /** The form that was sent; empty for a GET. */
  readonly body: string;
  readonly attempt: number;
  /** HTTP status, or why there was none. */
  readonly answer: string;
}

/** How a network's sending is: as it should be, kept back until later, or broken, so that nobody is told ever. */
export const sendings = ['on', 'late', 'broken'] as const;
export type Sending = (typeof sendings)[number];

/** A postback that is kept back: the transaction as it was then. */
export interface Waiting {
  readonly order: string;
  readonly state: State;
}

interface NetworkBooks {
  clicks: Click[];
  transactions: Transaction[];
  deliveries: Delivery[];
  waiting: Waiting[];
  sending: Sending;
  /** Postback addresses by account, and by `account/offer` for one offer. */
  postbacks: Record<string, string>;
}

const fresh = (): NetworkBooks => ({
  clicks: [],
  transactions: [],
  deliveries: [],
  waiting: [],
  sending: 'on',
  postbacks: {},
});

/** The books of a network: what it counted, what was sold, whom it told. Kept in one file. */
export class SimulatedNetwork {
  readonly kind: Kind;
  readonly #path: string;
  readonly #books: NetworkBooks;
  readonly #byNumber: Map<string, Click>;

  constructor(kind: Kind, path: string) {
    this.kind = kind;
    this.#path = path;
    this.#books = read(path);
    this.#byNumber = new Map(this.#books.clicks.map((click) => [click.number, click]));
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
  get sending(): Sending {
    return this.#books.sending;
  }

  /** The click of a number. */
  clickOf(number: string): Click | undefined {
    return this.#byNumber.get(number);
  }

  /**
   * Counts a click by the network's own rule: the same visitor on the same offer counts once in ten minutes. The
   * sub-IDs of the newest click stand.
   */
  click(click: Omit<Click, 'number'>): Click {
    const { kind } = this;
    const again = this.#books.clicks.findIndex(
      (c) => c.visitor === click.visitor && c.offer === click.offer && click.at - c.at < sameClickMs,
    );
    const before = this.#books.clicks[again];
    const kept: Click = {
      ...click,
      slots: Object.fromEntries(kind.slots.map((name) => [name, kind.keeps(click.slots[name] ?? '', name)])),
      number: before?.number ?? kind.clickName.slice(0, 2) + (kind.firstClick + this.#books.clicks.length),
    };
    if (again >= 0) this.#books.clicks[again] = kept;
    else this.#books.clicks.push(kept);
    this.#byNumber.set(kept.number, kept);
    this.#save();
    return kept;
  }

  /** Books a sale a shop reported for one of our clicks; undefined when the click is nobody's. */
  sale(clickNumber: string, sale: Amount, event: string, at: number): Transaction | undefined {
    const click = this.clickOf(clickNumber);
    const offer = this.kind.offers.find(({ code }) => code === click?.offer);
    if (!click || !offer) return undefined;
    const transaction: Transaction = {
      order: this.#nextOrder(),
      click: click.number,
      at,
      event,
      sale,
      commission: offer.pays(sale, event),
      state: 'pending',
      changedAt: at,
    };
    this.#books.transactions.push(transaction);
    this.#save();
    return transaction;
  }

  #nextOrder(): string {
    const used = new Set(this.#books.transactions.map(({ order }) => order));
    let number = this.kind.firstOrder + used.size;
    while (used.has(this.kind.orderOf(number))) number += 1;
    return this.kind.orderOf(number);
  }

  /**
   * Moves a transaction to a state; undefined when there is no such order. A network that takes back every so many
   * orders does that instead of approving one.
   */
  settle(order: string, state: State, at: number): Transaction | undefined {
    const place = this.#books.transactions.findIndex((t) => t.order === order);
    const transaction = this.#books.transactions[place];
    if (!transaction) return undefined;
    const { reversesEvery } = this.kind;
    const isReversed =
      state === 'approved' && reversesEvery > 0 && place % reversesEvery === reversesEvery - 1;
    transaction.state = isReversed ? 'reversed' : state;
    transaction.changedAt = at;
    this.#save();
    return transaction;
  }

  /** Corrects what a transaction pays, in minor units; undefined when there is no such order. */
  correct(order: string, minor: number, at: number): Transaction | undefined {
    const transaction = this.#books.transactions.find((t) => t.order === order);
    if (!transaction) return undefined;
    transaction.commission = { ...transaction.commission, minor };
    transaction.changedAt = at;
    this.#save();
    return transaction;
  }

  /** Sets the postback address of an account, or of one of its offers; an empty one takes it away. */
  setPostback(account: string, offer: string, url: string): void {
    const key = offer === '' ? account : `${account}/${offer}`;
    const others = Object.entries(this.#books.postbacks).filter(([name]) => name !== key);
    this.#books.postbacks = Object.fromEntries(url === '' ? others : [...others, [key, url]]);
    this.#save();
  }

  /** Turns the sending of postbacks on, late or broken; gives those that waited and can be sent now. */
  setSending(sending: Sending): readonly Waiting[] {
    this.#books.sending = sending;
    const { waiting } = this.#books;
    if (sending !== 'late') this.#books.waiting = [];
    this.#save();
    return sending === 'on' ? waiting : [];
  }

  /** Keeps a postback back. */
  wait(waiting: Waiting): void {
    this.#books.waiting.push(waiting);
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

const sameClickMs = 10 * 60_000;

/** Writes books for a network that has a past, before it is opened. */
export const writeBooks = (
  path: string,
  past: Pick<NetworkBooks, 'clicks' | 'transactions' | 'postbacks'>,
): void => {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, JSON.stringify({ ...fresh(), ...past } satisfies NetworkBooks));
};

const read = (path: string): NetworkBooks => {
  try {
    const kept: unknown = JSON.parse(readFileSync(path, 'utf8'));
    // The file is this class's own; one of an older version lacks what was added since.
    return 'sending' in (kept as NetworkBooks) ? (kept as NetworkBooks) : fresh();
  } catch {
    return fresh();
  }
};
