import type { DateOrder, Status } from '#core/catalogue';
import { dayIn } from '#core/hop';
import { ulid } from 'ulid';
import type { Column } from './dialectWords.ts';
import { headings, languages, ownStates, stateWords, tradeStates } from './dialectWords.ts';

/** Ways of writing a date that tell the time of day. */
export const withTime: readonly string[] = [
  'iso time',
  'iso Z',
  'iso offset',
  '12 hours',
  'time apart',
  'unix s',
  'unix ms',
];

/** What varies in a file, each with what it may be. */
export const axes = {
  language: languages,
  format: [
    'csv',
    'xlsx',
    'xlsx 1904',
    'xlsx without date formats',
    'xlsx 1904 without date formats',
    'html',
    'json array',
    'json inside',
    'json lines',
  ],
  delimiter: [',', ';', '\t', '|', 'sep=;', 'sep=#'],
  encoding: ['utf-8', 'utf-8 with bom', 'utf-16le', 'windows-1252'],
  dates: [
    'iso day',
    'iso time',
    'iso Z',
    'iso offset',
    'd.m.y',
    'd/m/y',
    'm/d/y',
    'd.m.yy',
    'd month y',
    '12 hours',
    'time apart',
    'unix s',
    'unix ms',
  ],
  zone: ['UTC', 'Europe/Berlin', 'America/Los_Angeles', 'Asia/Kolkata'],
  money: [
    '1234.50',
    '1,234.50',
    '1234,50',
    '1.234,50',
    "1'234.50",
    '1\u00A0234,50',
    '1\u202F234,50',
    'sign 1,234.50',
    '1.234,50 code',
  ],
  minus: ['-3.00', '3.00-', '(3.00)', '\u22123.00'],
  currency: ['EUR', 'USD', 'GBP', 'JPY', 'KWD'],
  currencyIn: ['a column', 'the heading', 'nowhere'],
  beside: ['commission alone', 'order value', 'order value and rate', 'fee', 'order value, rate and fee'],
  moreDates: ['none', 'click', 'approval', 'both'],
  before: ['none', 'one title line', 'three title lines', 'title and blank'],
  totals: ['none', 'by word', 'by word, a count', 'without a word', 'dated', 'note after'],
  rows: ['one an order', 'items with a name', 'items alike', 'states one after another'],
  refunds: ['none', 'rows below zero'],
  states: [
    'no column',
    ...languages.map((language) => `in ${language}` as const),
    ...languages.map((language) => `otherwise in ${language}` as const),
    'tracking',
    'validating',
    'paying',
    'leads',
    'bookings',
    'capitals',
    'taught before',
    'own',
  ],
  ids: ['alone', 'label|ID', 'ID_label', 'ID-2', 'small letters', 'cut'],
  twice: ['none', 'a heading stands twice'],
  later: ['none', 'rows dropped', 'states moved on'],
  coupons: ['none', 'a column'],
} as const satisfies Readonly<Record<string, readonly string[]>>;

export type Axis = keyof typeof axes;
/** One value of each axis. */
export type Dialect = { readonly [A in Axis]: (typeof axes)[A][number] };

/** Values of an axis that are no irregularity. */
const plain: Partial<Record<Axis, readonly string[]>> = {
  format: ['csv', 'xlsx'],
  delimiter: [',', ';'],
  encoding: ['utf-8', 'utf-8 with bom'],
  dates: ['iso day', 'iso time', 'd.m.y'],
  beside: ['commission alone'],
  moreDates: ['none'],
  before: ['none'],
  totals: ['none'],
  rows: ['one an order'],
  refunds: ['none'],
  states: ['no column', 'in en'],
  ids: ['alone'],
  twice: ['none'],
  later: ['none'],
  coupons: ['none'],
};

/** How many things about a file are not plain. */
export const irregularities = (dialect: Dialect): number =>
  Object.entries(plain).filter(([axis, values]) => !values.includes(dialect[axis as Axis])).length; // its keys are axes

/** Mulberry32: the same numbers from the same seed. */
export const numbers = (seed: number) => {
  let state = seed >>> 0;
  return (): number => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
};

/** As many dialects as are wanted; each value of each axis occurs as often as any other, give or take one. */
export const drawDialects = (count: number, seed: number): Dialect[] => {
  const random = numbers(seed);
  const drawn = (Object.entries(axes) as [Axis, readonly string[]][]).map(([axis, values]) => {
    const list = Array.from({ length: count }, (_, i) => values[i % values.length] ?? '');
    for (let i = list.length - 1; i > 0; i--) {
      const other = Math.floor(random() * (i + 1));
      [list[i], list[other]] = [list[other] ?? '', list[i] ?? ''];
    }
    return [axis, list] as const;
  });
  return Array.from(
    { length: count },
    (_, i) => Object.fromEntries(drawn.map(([axis, list]) => [axis, list[i]])) as Dialect, // one of each axis
  );
};

/** One row of a file, before it is written in any dialect. Money is in minor units. */
export interface TruthRow {
  readonly txn: string;
  readonly program: string;
  /** The click ID as it was sent; empty for none. */
  readonly click: string;
  readonly at: number;
  readonly status: Status;
  readonly word: string;
  readonly commission: number;
  readonly value: number;
  /** Percent. */
  readonly rate: number;
  readonly fee: number;
  readonly item: string;
  readonly coupon: string;
}

/** What a network says, as it should be known after reading. */
export interface Truth {
  readonly rows: readonly TruthRow[];
  /** By transaction: what its sale comes to. */
  readonly sales: ReadonlyMap<
    string,
    {
      readonly amount: number;
      readonly status: Status;
      readonly day: string;
      readonly at: number;
      readonly click: string;
      readonly program: string;
      readonly coupon: string;
    }
  >;
  /** Refunds, as texts `transaction day amount`, in order. */
  readonly refunds: readonly string[];
}

/** A file of a network in its dialect: the truth in it, and what a person who knows the network would answer. */
export interface DrawnFile {
  readonly dialect: Dialect;
  readonly network: { readonly zone: string; readonly currency: string };
  readonly truth: Truth;
  /** What a later report of the same days says, and the transactions it lists no longer. */
  readonly later: Truth | undefined;
  readonly dropped: readonly string[];
  /** Columns in their order, with their headings. */
  readonly columns: readonly (readonly [Column, string])[];
  readonly order: DateOrder;
  readonly decimal: '.' | ',';
  readonly meaning: ReadonlyMap<string, Status>;
}

export const exponent: Readonly<Record<Dialect['currency'], number>> = {
  EUR: 2,
  USD: 2,
  GBP: 2,
  JPY: 0,
  KWD: 3,
};
/** About what an amount in cents is worth in minor units of the currency. */
const scale: Readonly<Record<Dialect['currency'], number>> = { EUR: 1, USD: 1, GBP: 1, JPY: 1.6, KWD: 3 };

const programs = ['Oakhollow Lamps', 'Quillmarsh Garden', 'Brackenfold Tents', 'Tarnlight Audio'];
const rates = [3, 4.5, 7, 10, 12];
const dayMs = 86_400_000;
const firstDay = Date.UTC(2026, 9, 1);

const rank: readonly Status[] = ['pending', 'approved', 'paid', 'reversed'];

/** What the rows come to, worked out from the truth and not by the reader. */
const truthOf = (rows: readonly TruthRow[], dialect: Dialect, zone: string): Truth => {
  const sales = new Map<string, TruthRow[]>();
  const refunds: string[] = [];
  for (const row of rows) {
    if (row.commission < 0) refunds.push(`${row.txn} ${dayIn(zone, row.at)} ${row.commission}`);
    else sales.set(row.txn, [...(sales.get(row.txn) ?? []), row]);
  }
  return {
    rows,
    refunds: refunds.sort(),
    sales: new Map(
      [...sales].map(([txn, list]) => {
        const last = list.at(-1);
        if (!last) throw new Error('A sale has rows.');
        const live = list.filter(({ status }) => status !== 'reversed');
        const items = live.length > 0 ? live : list;
        const isStates = dialect.rows === 'states one after another';
        return [
          txn,
          {
            amount: isStates ? last.commission : items.reduce((sum, { commission }) => sum + commission, 0),
            status: isStates
              ? last.status
              : (rank[Math.min(...items.map(({ status }) => rank.indexOf(status)))] ?? 'pending'),
            day: dayIn(zone, list[0]?.at ?? 0),
            at: list[0]?.at ?? 0,
            click: last.click,
            program: last.program,
            coupon: last.coupon,
          },
        ];
      }),
    ),
  };
};

const columnsOf = (
  dialect: Dialect,
  pick: <T>(list: readonly T[]) => T,
  random: () => number,
): (readonly [Column, string])[] => {
  const wanted: Column[] = ['txn', 'date', 'program', 'click', 'commission'];
  if (dialect.states !== 'no column') wanted.push('status');
  if (dialect.beside.includes('order value')) wanted.push('value');
  if (dialect.beside.includes('rate')) wanted.push('rate');
  if (dialect.beside.includes('fee')) wanted.push('fee');
  if (dialect.moreDates === 'click' || dialect.moreDates === 'both') wanted.push('clickDate');
  if (dialect.moreDates === 'approval' || dialect.moreDates === 'both') wanted.push('approvalDate');
  if (dialect.rows === 'items with a name') wanted.push('item');
  if (dialect.coupons !== 'none') wanted.push('coupon');
  if (dialect.dates === 'time apart') wanted.push('time');
  if (dialect.currencyIn === 'a column') wanted.push('currency');
  if (random() < 0.5) wanted.push('country');
  for (let i = wanted.length - 1; i > 0; i--) {
    const other = Math.floor(random() * (i + 1));
    [wanted[i], wanted[other]] = [wanted[other] ?? 'txn', wanted[i] ?? 'txn'];
  }
  const words = headings[dialect.language];
  // A heading that names a currency names that of the file.
  const inHeading = (column: Column, heading: string) => {
    const bare = heading.replace(/ (?:\(EUR\)|in EUR|EUR)$/, '');
    if (!['commission', 'value', 'fee'].includes(column)) return heading;
    return dialect.currencyIn === 'the heading' ? `${bare} (${dialect.currency})` : bare;
  };
  const named = wanted.map((column) => [column, inHeading(column, pick(words[column]))] as const);
  // The same heading twice, as when a report is put together from two.
  const double = named.find(([column]) => column === pick(['program', 'txn', 'currency', 'status']));
  return dialect.twice === 'none' || !double ? named : [...named, double];
};

const isTrade = (states: string): states is keyof typeof tradeStates => Object.hasOwn(tradeStates, states);
const wordsOf = ({ states }: Dialect): Readonly<Record<Status, string>> => {
  if (states === 'own' || states === 'taught before') return ownStates;
  if (isTrade(states)) return tradeStates[states];
  const language = languages.find((one) => states.endsWith(one)) ?? 'en';
  return stateWords[language][states.startsWith('otherwise') ? 1 : 0];
};

/** Draws the orders of a network and the file it would write of them. The same seed gives the same. */
export const drawFile = (dialect: Dialect, seed: number): DrawnFile => {
  const random = numbers(seed * 7919 + 17);
  const pick = <T>(list: readonly T[]): T => {
    const found = list[Math.floor(random() * list.length)];
    if (found === undefined) throw new Error('A list to pick from has something in it.');
    return found;
  };
  const whole = (from: number, to: number) => from + Math.floor(random() * (to - from + 1));
  const { zone, currency } = dialect;
  const words = wordsOf(dialect);
  const states = rank;
  const chosen = new Map(states.map((status) => [status, words[status]]));
  const withDay = dialect.dates === 'iso day' || /^[dm]/.test(dialect.dates);
  /** A time in working hours of the zone, so that no clock is set back in it; whole days stand at midnight. */
  const moment = (day: number) =>
    firstDay + day * dayMs + (withDay ? 12 * 3600_000 : whole(9 * 3600, 18 * 3600) * 1000);
  const count = whole(8, 30);
  const rows: TruthRow[] = [];
  const prefix = pick(['NL-', 'A', '2026-', '', 'ord_']);
  const orders = Array.from({ length: count }, (_, i) => i).map((i) => {
    const at = moment(Math.floor((i * 30) / count));
    const shop = whole(0, programs.length - 1);
    return {
      txn: `${prefix}${81_000 + i * 7 + whole(0, 6)}`,
      program: programs[shop] ?? '',
      rate: rates[shop] ?? 3,
      click: random() < 0.9 ? ulid(at - whole(1, 20) * 3600_000) : '',
      at,
      coupon: random() < 0.4 ? pick(['FERN10', 'OAK5']) : '',
    };
  });
  const sale = (order: (typeof orders)[number], item: string, status: Status, at = order.at): TruthRow => {
    const value = Math.round(whole(200, 60_000) * (random() < 0.15 ? 10 : 1) * scale[currency]);
    const commission = Math.max(1, Math.round((value * order.rate) / 100));
    return {
      ...order,
      at,
      item,
      status,
      word: chosen.get(status) ?? '',
      value,
      commission,
      fee: Math.max(1, Math.round(commission * 0.2)),
    };
  };
  const status = (): Status => (dialect.states === 'no column' ? 'pending' : pick(states));
  for (const [i, order] of orders.entries()) {
    const several = random() < 0.4 || i < 3;
    if (dialect.rows.startsWith('items') && several) {
      const state = status();
      for (let n = 0; n < whole(2, 3); n++)
        rows.push(
          sale(
            order,
            `Item ${n + 1}`,
            n > 0 && state !== 'reversed' && dialect.states !== 'no column' && random() < 0.2
              ? 'reversed'
              : state,
          ),
        );
    } else if (
      dialect.rows === 'states one after another' &&
      several &&
      states.length > 1 &&
      dialect.states !== 'no column'
    ) {
      const first = sale(order, 'Item 1', 'pending');
      const next = pick(states.filter((one) => one !== 'pending'));
      rows.push(first, { ...first, status: next, word: chosen.get(next) ?? '', at: order.at + dayMs });
    } else rows.push(sale(order, 'Item 1', status()));
  }
  if (dialect.refunds !== 'none')
    for (const order of orders.filter((_, i) => i % 4 === 1)) {
      const of = rows.find(({ txn }) => txn === order.txn);
      if (!of || of.commission < 2 || of.status === 'reversed') continue;
      const back = whole(1, of.commission);
      rows.push({
        ...of,
        at: of.at + 2 * dayMs,
        commission: -back,
        value: -Math.round((back * 100) / of.rate),
        fee: -1,
      });
    }
  rows.sort((a, b) => a.at - b.at);
  const columns = columnsOf(dialect, pick, random);
  const dropped =
    dialect.later === 'rows dropped' ? orders.filter((_, i) => i % 5 === 2).map(({ txn }) => txn) : [];
  const moved = (row: TruthRow): TruthRow =>
    dialect.later === 'states moved on' && row.status === 'pending' && dialect.states !== 'no column'
      ? { ...row, status: 'approved', word: chosen.get('approved') ?? '' }
      : row;
  const laterRows = rows.filter(({ txn }) => !dropped.includes(txn)).map(moved);
  const dmy =
    /^d/.test(dialect.dates) ||
    (dialect.dates === '12 hours' && dialect.language !== 'en') ||
    dialect.dates === 'time apart';
  return {
    dialect,
    // Where the file says which currency it is, the network's own is another.
    network: { zone, currency: dialect.currencyIn === 'nowhere' ? currency : 'CHF' },
    truth: truthOf(rows, dialect, zone),
    later: dialect.later === 'none' ? undefined : truthOf(laterRows, dialect, zone),
    dropped,
    columns,
    order: dmy ? 'dmy' : dialect.dates === 'm/d/y' || dialect.dates === '12 hours' ? 'mdy' : 'ymd',
    decimal: /,50/.test(dialect.money) ? ',' : '.',
    meaning: new Map([...chosen].map(([state, word]) => [word.toLowerCase(), state])),
  };
};
