import { TZDate } from '@date-fns/tz';
import { format } from 'date-fns';
import Papa from 'papaparse';
import * as v from 'valibot';
import type { Shop } from '../shop/shops.ts';
import type { Kind, StatementRow } from '../network/kind.ts';
import { decimals, fixed, percent, states } from '../network/kind.ts';
import { linkShape, pageForms } from '../network/linkShape.ts';

const text = v.pipe(v.string(), v.minLength(1), v.maxLength(400));
const whole = v.pipe(v.number(), v.integer(), v.minValue(0));
/**
 * What a placeholder or a column of a report can hold: a value of the transaction, a slot as `slot NAME`, or something else
 * that nobody asked for.
 */
const value = v.union([
  v.picklist([
    'order',
    'event',
    'state',
    'commission',
    'currency',
    'offer',
    'merchant',
    'moment',
    'unix',
    'other',
  ]),
  v.pipe(
    v.string(),
    v.regex(/^slot \w+$/),
    v.transform((s) => s as `slot ${string}`),
  ),
]);
type Value = v.InferOutput<typeof value>;

const description = v.strictObject({
  id: v.pipe(v.string(), v.regex(/^[a-z]{3,20}$/)),
  name: text,
  host: v.pipe(v.string(), v.endsWith('.localhost')),
  currency: v.pipe(v.string(), v.length(3)),
  /** Zone of its days. */
  zone: text,
  account: text,
  /** A share of each sale in hundredths, or an amount in minor units. */
  offers: v.array(
    v.strictObject({
      code: v.string(),
      merchant: text,
      pays: v.union([v.strictObject({ percent: whole }), v.strictObject({ fixed: whole })]),
    }),
  ),
  link: v.strictObject({
    template: text,
    page: v.picklist(Object.keys(pageForms) as (keyof typeof pageForms)[]),
  }),
  slots: v.array(v.strictObject({ name: v.pipe(v.string(), v.regex(/^\w+$/)), keeps: whole })),
  states: v.strictObject(v.entriesFromList(states, text)),
  order: text,
  postback: v.strictObject({
    /** How a placeholder looks, with `*` for its name. */
    style: v.pipe(v.string(), v.regex(/^[^\w*]{1,3}\*[^\w*]{1,3}$/)),
    via: v.picklist(['GET', 'POST']),
    /** How its help page tells of them. */
    help: v.picklist(['address', 'table', 'sentences']),
    placeholders: v.array(v.strictObject({ name: text, value, words: text })),
  }),
  report: v.strictObject({
    file: text,
    delimiter: v.picklist([',', ';', '\t', '|']),
    /** Unicode date pattern (UTS 35) of the moment of an order, in the network's zone; `seconds` for unix time. */
    dates: text,
    decimal: v.picklist(['.', ',']),
    group: v.picklist(['', '.', ',', ' ', "'"]),
    /** Written before an amount, and after it. */
    before: v.string(),
    after: v.string(),
    columns: v.array(v.strictObject({ heading: text, value })),
  }),
  shops: v.array(
    v.strictObject({
      host: v.pipe(v.string(), v.endsWith('.localhost')),
      offer: v.string(),
      products: v.array(
        v.strictObject({ path: v.pipe(v.string(), v.startsWith('/')), name: text, price: whole }),
      ),
    }),
  ),
});

/** A network as a file describes it. */
export type Description = v.InferOutput<typeof description>;

const colours = ['#4d5a1f', '#1f4d5a', '#5a1f4d', '#5a3d1f', '#1f5a37', '#3a1f5a'];

const escaped = (sign: string) => sign.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

const valueOf = (
  wanted: Value,
  { row, word, clock, amount }: { row: StatementRow; word: string; clock: string; amount: string },
  { slots }: Description,
): string => {
  switch (wanted) {
    case 'order':
    case 'event':
    case 'offer':
    case 'merchant':
      return row[wanted];
    case 'state':
      return word;
    case 'commission':
      return amount;
    case 'currency':
      return row.commission.currency;
    case 'moment':
      return clock;
    case 'other':
      return 'x';
    case 'unix':
      return String(Math.floor(row.at / 1000));
    default:
      return row.slots[slots.findIndex(({ name }) => wanted === `slot ${name}`)] ?? '';
  }
};

const helpOf = ({ host, postback }: Description): string => {
  const written = postback.placeholders.map((p) => ({ ...p, sign: postback.style.replace('*', p.name) }));
  switch (postback.help) {
    case 'address':
      return `https://your-server.example/postback?${written.map(({ name, sign }) => `${name}=${sign}`).join('&')}`;
    case 'table':
      return [
        'Placeholder\tWhat it stands for',
        ...written.map(({ sign, words }) => `${sign}\t${words}`),
      ].join('\n');
    case 'sentences':
      return [
        `Set an address of yours at ${host}, and put these into it.`,
        ...written.map(({ sign, words }) => `With ${sign} you are told ${words}.`),
      ].join('\n');
  }
};

/**
 * The simulated network that a file describes, with its shops.
 *
 * @throws Error naming what of the file is wrong
 */
export const describedKind = (file: unknown): { readonly kind: Kind; readonly shops: readonly Shop[] } => {
  const read = v.safeParse(description, file);
  if (!read.success)
    throw new Error(
      read.issues.map((issue) => `${v.getDotPath(issue) ?? 'the file'}: ${issue.message}`).join('\n'),
    );
  const described = read.output;
  const { id, name, host, currency, zone, account, offers, slots, postback, report } = described;
  const [opening = '', closing = ''] = postback.style.split('*');
  const colour = colours[name.length % colours.length] ?? '';
  const money = ({ commission }: StatementRow) => {
    const [units = '', cents] = decimals(commission).split('.');
    const grouped = units.replace(/\B(?=(\d{3})+$)/g, report.group);
    return `${report.before}${grouped}${cents === undefined ? '' : report.decimal + cents}${report.after}`;
  };
  const kind: Kind = {
    id,
    name,
    host,
    colour,
    accounts: [account],
    offers: offers.map(({ code, merchant, pays }) => ({
      code,
      merchant,
      pays:
        'percent' in pays
          ? percent(pays.percent)
          : (_sale, event) => fixed({ [event]: pays.fixed }, currency)(_sale, event),
    })),
    clickName: `${id.slice(0, 4)}click`,
    firstClick: 4001,
    firstOrder: 60_201,
    orderOf: (number) => `${described.order}${number}`,
    slots: slots.map((slot) => slot.name),
    keeps: (subId, slot) => subId.slice(0, slots.find((one) => one.name === slot)?.keeps),
    shape: linkShape(host, described.link.template, described.link.page),
    words: described.states,
    placeholder: new RegExp(
      `(?:${escaped(opening)}|${escaped(encodeURIComponent(opening))})(\\w+)(?:${escaped(closing)}|${escaped(encodeURIComponent(closing))})`,
      'g',
    ),
    placeholders: postback.placeholders.map((p) => postback.style.replace('*', p.name)),
    help: helpOf(described),
    values: (transaction, click, word) => {
      const row: StatementRow = {
        ...transaction,
        offer: click.offer,
        merchant: offers.find(({ code }) => code === click.offer)?.merchant ?? '',
        slots: slots.map((slot) => click.slots[slot.name] ?? ''),
      };
      const values = {
        row,
        word,
        clock: new Date(transaction.changedAt).toISOString(),
        amount: decimals(transaction.commission),
      };
      return Object.fromEntries(
        postback.placeholders.map((p) => [p.name, valueOf(p.value, values, described)]),
      );
    },
    via: postback.via,
    tells: () => true,
    deafEvery: 0,
    reversesEvery: 0,
    report: {
      file: report.file,
      head: Papa.unparse([report.columns.map(({ heading }) => heading)], { delimiter: report.delimiter }),
      line: (row) => {
        const at = new TZDate(row.at, zone);
        const values = {
          row,
          word: described.states[row.state],
          clock: report.dates === 'seconds' ? String(Math.floor(row.at / 1000)) : format(at, report.dates),
          amount: money(row),
        };
        return Papa.unparse([report.columns.map((column) => valueOf(column.value, values, described))], {
          delimiter: report.delimiter,
        });
      },
    },
  };
  const shops = described.shops.map(({ host: shop, offer, products }): Shop => ({
    name: offers.find(({ code }) => code === offer)?.merchant ?? shop,
    host: shop,
    network: id,
    offer,
    colour,
    products: products.map((product) => ({
      path: product.path,
      name: product.name,
      price: { minor: product.price, currency },
      event: 'sale',
    })),
  }));
  return { kind, shops };
};
