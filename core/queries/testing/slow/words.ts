import type { Network, Status } from '#core/catalogue';
import type { PostbackRecord } from '#core/visits';
import { dayMs } from './days.ts';

/** One postback as it is read. */
export interface Word {
  readonly network: string;
  readonly click: string;
  readonly event: string;
  readonly txn: string;
  readonly status: Status;
  readonly amount: number | null;
  readonly currency: string;
  readonly at: number;
  readonly timed: boolean;
  readonly seq: number;
  readonly arrived: number;
  readonly unverified: boolean;
  readonly text: string;
}

/** States on their way, the first first. */
export const ranks: readonly Status[] = ['pending', 'approved', 'paid', 'reversed'];

/** What a postback's query and form say, first word first. */
const said = (record: PostbackRecord): Record<string, string> => {
  const found: Record<string, string> = {};
  const read = (text: string) => {
    for (const [name, value] of new URLSearchParams(text)) found[name] ??= value.trim();
  };
  if (record.signed !== 'body') read(record.query);
  if (record.body !== null && record.signed !== 'query') {
    if (record.type?.includes('json')) {
      for (const [name, value] of Object.entries(JSON.parse(record.body) as Record<string, unknown>))
        found[name] ??= String(value);
    } else read(record.body);
  }
  return found;
};

/** Decimals of a currency, as the platform's own table has them. */
const placesOf = (currency: string): number =>
  new Intl.NumberFormat('en', { style: 'currency', currency }).resolvedOptions().maximumFractionDigits ?? 2;

/** A postback's word; undefined where an amount, a state or a currency of it cannot be read. */
export const wordOf = (record: PostbackRecord, network: Network): Word | undefined => {
  const pairs = said(record);
  const { fields, statuses } = network.postback;
  const of = (field: keyof typeof fields) => pairs[fields[field] ?? field] ?? '';
  const isEmpty = (text: string) => text === '' || /^[{[%#<$]/.test(text);
  const [amountText, statusText, currencyText] = [of('amount'), of('status'), of('currency')];
  const currency = currencyText === '' ? network.currency : currencyText.toUpperCase();
  if (!Intl.supportedValuesOf('currency').includes(currency)) return undefined;
  let amount: number | null = null;
  if (amountText !== '') {
    const places = placesOf(currency);
    const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(amountText);
    const decimals = match?.[3] ?? '';
    if (!match || /[1-9]/.test(decimals.slice(places))) return undefined;
    const minor = Number(`${match[2] ?? ''}${decimals.padEnd(places, '0').slice(0, places)}`);
    amount = match[1] === '-' && minor !== 0 ? -minor : minor;
  }
  const own: Readonly<Record<string, Status>> = {
    pending: 'pending',
    open: 'pending',
    approved: 'approved',
    confirmed: 'approved',
    paid: 'paid',
    reversed: 'reversed',
    cancelled: 'reversed',
    rejected: 'reversed',
  };
  const word = statusText.toLowerCase();
  const status = statusText === '' ? 'pending' : (statuses[word] ?? own[word]);
  if (status === undefined) return undefined;
  const time = of('at');
  const told = /^\d{10}$/.test(time)
    ? Number(time) * 1000
    : /^\d{13}$/.test(time)
      ? Number(time)
      : time === ''
        ? Number.NaN
        : Date.parse(time.replace(' ', 'T'));
  const timed = !Number.isNaN(told) && told - record.at <= dayMs;
  const [click, txn] = [of('click'), of('txn')].map((text) => (isEmpty(text) ? '' : text)) as [
    string,
    string,
  ];
  return {
    network: record.network,
    click,
    event: (of('event') || 'sale').toLowerCase(),
    txn,
    status,
    amount,
    currency,
    at: timed ? told : record.at,
    timed,
    seq: record.seq,
    arrived: record.at,
    unverified: record.unverified !== undefined,
    text: `${record.query}\n${record.body ?? ''}`,
  };
};

/** By the network's own time; of one moment by state, amount and click. */
export const inTime = (a: Word, b: Word): number =>
  a.at - b.at ||
  Number((a.amount ?? 0) < 0) - Number((b.amount ?? 0) < 0) ||
  ranks.indexOf(a.status) - ranks.indexOf(b.status) ||
  (a.amount ?? -Infinity) - (b.amount ?? -Infinity) ||
  (a.click < b.click ? -1 : a.click > b.click ? 1 : 0) ||
  a.seq - b.seq;
