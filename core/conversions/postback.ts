import type { PostbackField, PostbackProfile, Problem, Status } from '#core/catalogue';
import { postbackFields, element } from '#core/catalogue';
import type { PostbackRecord, Unverified } from '#core/visits';
import { decodeLatin1QueryText } from '#core/link-parts';
import type { Minor } from '#core/values';
import { currencyIn, exponentOf, knownCurrency, readAmount, readReportAmount } from '#core/values';
import { isPlaceholder } from './placeholder.ts';
import { statusOf } from './statusWords.ts';

/** Fields without which nobody can say what a postback is worth: where one cannot be read, it is asked about. */
export const askedAbout = ['amount', 'status', 'currency'] as const satisfies readonly PostbackField[];
export type AskedAbout = (typeof askedAbout)[number];

/** What one postback says, read by its network's profile. */
export interface ConversionEvent {
  readonly network: string;
  /** As it came, trimmed; empty when it sent none. */
  readonly click: string;
  /** What stood in the place of the click ID: a placeholder that nobody replaced. */
  readonly unfilled?: string;
  /** `sale`, `lead`, or the network's own word in lower case. */
  readonly event: string;
  readonly status: Status;
  /** Minor units of `currency`; null when none came. */
  readonly amount: Minor | null;
  /** The amount came without decimals, in a currency that has some. */
  readonly whole: boolean;
  readonly currency: string;
  /** The network's transaction ID; empty when it sent none. */
  readonly txn: string;
  /** When it happened by the network's word, else when it arrived; milliseconds since 1970 UTC. */
  readonly at: number;
  /** The network said when it happened. */
  readonly timed: boolean;
  /** The time it said, where that lies more than a day after its arrival: nothing was done then yet. */
  readonly ahead?: number;
  /** When it arrived here. */
  readonly arrived: number;
  /** Its place in the journal. */
  readonly seq: number;
  /** Why nobody can say that the network sent it. */
  readonly unverified?: Unverified;
  /** All of it as it came, where neither a transaction nor a click ID tells it from others. */
  readonly bytes?: string;
}

export interface ReadPostback {
  readonly event: ConversionEvent;
  /** Every field as it came, under our names; a placeholder that nobody replaced too. */
  readonly raw: Partial<Record<PostbackField, string>>;
  /** What could not be read, with the field as its path. The event stands all the same, but where `unread` is not empty. */
  readonly problems: readonly Problem[];
  /** Fields that have to be asked about first: until then it is no conversion, nor a part of one. */
  readonly unread: readonly AskedAbout[];
}

/** Pairs of a query or form. What is not UTF-8 is taken for Latin-1: else two transactions could look alike. */
const pairsOf = (text: string): Iterable<readonly [name: string, value: string]> => {
  const pairs = [...new URLSearchParams(text)];
  if (!pairs.some(([, value]) => value.includes('\uFFFD'))) return pairs;
  const raw = text.split('&').filter((pair) => pair !== '');
  return pairs.map(([name, value], i) => {
    const pair = element(raw[i]);
    return [
      name,
      value.includes('\uFFFD') ? decodeLatin1QueryText(pair.slice(pair.indexOf('=') + 1)) : value,
    ] as const;
  });
};

const parametersOf = (record: PostbackRecord): Map<string, string> => {
  const found = new Map<string, string>();
  const add = (text: string) => {
    for (const [name, value] of pairsOf(text)) if (!found.has(name)) found.set(name, value);
  };
  // What the signature does not cover, anybody on the way could have added.
  if (record.signed !== 'body') add(record.query);
  if (record.body !== null && record.signed !== 'query') {
    if (record.type?.includes('json')) {
      try {
        const body: unknown = JSON.parse(record.body);
        if (typeof body === 'object' && body !== null && !Array.isArray(body))
          for (const [name, value] of Object.entries(body))
            if (!found.has(name) && ['string', 'number', 'boolean'].includes(typeof value))
              found.set(name, String(value));
      } catch {
        // Kept as it came; the fields are then missing and said to be.
      }
    } else add(record.body);
  }
  return found;
};

const readTime = (text: string): number | undefined => {
  if (/^\d{10}$/.test(text)) return Number(text) * 1000;
  if (/^\d{13}$/.test(text)) return Number(text);
  // ISO 8601 with an offset; a time without one would be a guess.
  if (/^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:Z|[+-]\d\d:?\d\d)$/.test(text)) {
    const at = Date.parse(text.replace(' ', 'T'));
    return Number.isNaN(at) ? undefined : at;
  }
  return undefined;
};

/** More of a message about a value is not shown; the value itself is kept whole. */
const longestWords = 300;

/** A time so long after its arrival is none at which it happened: clocks and time zones are never so far apart. */
const aheadMs = 24 * 3_600_000;

/** What of a network's profile tells how its postbacks are read. */
export type PostbackReadingProfile = Pick<PostbackProfile, 'fields' | 'statuses' | 'decimal' | 'currencies'>;

/** The code a text for a currency means; undefined where that is not sure. */
const currencyMeant = (
  said: string,
  { currencies }: Pick<PostbackReadingProfile, 'currencies'>,
  networkCurrency: string,
): string | undefined => {
  const code = said.toUpperCase();
  if (/^[A-Z]{3}$/.test(code) && knownCurrency(code)) return code;
  const word = said.toLowerCase();
  if (currencies && Object.hasOwn(currencies, word)) return currencies[word];
  // A sign says the network's own currency or leaves a choice.
  return /\p{Sc}/u.test(said) && currencyIn(said, networkCurrency) === networkCurrency
    ? networkCurrency
    : undefined;
};

/**
 * An amount as the network was taught to write it. One that mixes both signs writes some that can be read by the other one
 * alone: these leave no choice. Undefined where nothing was taught, or it is no amount either way.
 */
const taughtAmount = (text: string, decimal: '.' | ',' | undefined, currency: string): Minor | undefined =>
  decimal === undefined
    ? undefined
    : (readReportAmount(text, decimal, currency) ??
      readReportAmount(text, decimal === '.' ? ',' : '.', currency));

/** Readings of an amount that a person chooses from: by the point and by the comma before the decimals. */
export const amountChoices = (
  text: string,
  currency: string,
): { readonly decimal: '.' | ','; readonly amount: Minor }[] =>
  (['.', ','] as const).flatMap((decimal) => {
    const amount = readReportAmount(text, decimal, currency);
    return amount === undefined ? [] : [{ decimal, amount }];
  });

/**
 * Reads a postback of the journal by its network's profile. It never fails: what cannot be read is a problem
 * beside the event, and the raw record stays what it is.
 */
export const readPostback = (
  record: PostbackRecord,
  profile: PostbackReadingProfile,
  networkCurrency: string,
): ReadPostback => {
  const parameters = parametersOf(record);
  const raw: Partial<Record<PostbackField, string>> = {};
  /** What of it is a value. */
  const said: Partial<Record<PostbackField, string>> = {};
  const problems: Problem[] = [];
  const unread: AskedAbout[] = [];
  const ask = (field: AskedAbout, message: string) => {
    // Anybody with the address can send as much as they like.
    problems.push({
      path: field,
      message: message.length > longestWords ? `${message.slice(0, longestWords)}…` : message,
    });
    if (!unread.includes(field)) unread.push(field);
  };
  for (const field of postbackFields) {
    // A pixel is set by the person, under our own names.
    const name = record.unverified === 'pixel' ? field : (profile.fields[field] ?? field);
    const value = parameters.get(name)?.trim();
    if (value === undefined || value === '') continue;
    raw[field] = value;
    if (isPlaceholder(value))
      problems.push({
        path: field,
        message: `${value} arrived as it stands: the network did not replace it. Check the placeholder there.`,
      });
    else said[field] = value;
  }
  // A placeholder in the place of an amount, a state or a currency says as little as a word nobody knows.
  for (const field of askedAbout)
    if (raw[field] !== undefined && said[field] === undefined) unread.push(field);

  if (raw.click === undefined)
    problems.push({ path: 'click', message: 'No click ID came, so it cannot be matched exactly.' });

  let currency = networkCurrency.toUpperCase();
  if (said.currency !== undefined) {
    const meant = currencyMeant(said.currency, profile, currency);
    if (meant === undefined)
      ask('currency', `"${said.currency}" is no currency that is known. Say which one it is.`);
    else currency = meant;
  }

  let amount: Minor | null = null;
  if (said.amount !== undefined) {
    const inAmount = currencyIn(said.amount, currency);
    if (inAmount !== undefined && said.currency === undefined && knownCurrency(inAmount)) currency = inAmount;
    const read = readAmount(said.amount, currency);
    const taught = read.ok ? read.value : taughtAmount(said.amount, profile.decimal, currency);
    if (inAmount !== undefined && inAmount !== currency)
      ask('amount', `"${said.amount}" is in ${inAmount}, and its currency is said to be ${currency}.`);
    else if (taught !== undefined) amount = taught;
    else for (const { message } of read.ok ? [] : read.problems) ask('amount', message);
  }

  let status: Status = 'pending';
  if (said.status !== undefined) {
    const meant = statusOf(said.status, profile.statuses);
    if (meant !== undefined) status = meant;
    else ask('status', `"${said.status}" is no state this network is known to use. Say what it means.`);
  }

  let { at } = record;
  let timed = false;
  let ahead: number | undefined;
  if (said.at !== undefined) {
    const read = readTime(said.at);
    if (read === undefined)
      problems.push({
        path: 'at',
        message: `"${said.at}" is no time with a zone; the time of arrival is used.`,
      });
    else if (read - record.at > aheadMs) {
      ahead = read;
      problems.push({
        path: 'at',
        message: `"${said.at}" lies more than a day after it came; the time of arrival is used.`,
      });
    } else [at, timed] = [read, true];
  }

  const [click = '', txn = ''] = [said.click, said.txn];
  return {
    event: {
      network: record.network,
      click,
      ...(raw.click !== undefined && said.click === undefined && { unfilled: raw.click }),
      event: (said.event ?? 'sale').toLowerCase(),
      status,
      amount,
      whole: amount !== null && exponentOf(currency) > 0 && !/[.,]/.test(said.amount ?? ''),
      currency,
      txn,
      at,
      timed,
      ...(ahead !== undefined && { ahead }),
      arrived: record.at,
      seq: record.seq,
      ...(record.unverified && { unverified: record.unverified }),
      ...(click === '' && txn === '' && { bytes: `${record.query}\n${record.body ?? ''}` }),
    },
    raw,
    problems,
    unread,
  };
};
