import type { PostbackField, PostbackProfile, Problem, Status } from '#core/catalogue';
import { postbackFields, statuses, element } from '#core/catalogue';
import type { PostbackRecord, Unverified } from '#core/visits';
import { decodeLatin1QueryText } from '#core/link-parts';
import type { Minor } from '#core/values';
import { exponentOf, readAmount } from '#core/values';
import { isPlaceholder } from './placeholder.ts';

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
  /** Minor units of `currency`; null when none came or it could not be read. */
  readonly amount: Minor | null;
  /** The amount came without decimals, in a currency that has some. */
  readonly whole: boolean;
  readonly currency: string;
  /** The network's transaction ID; empty when it sent none. */
  readonly txn: string;
  /** When it happened by the network's word, else when it arrived; milliseconds since 1970 UTC. */
  readonly at: number;
  /** When it arrived here. */
  readonly arrived: number;
  /** Its place in the journal. */
  readonly seq: number;
  /** Why nobody can say that the network sent it. */
  readonly unverified?: Unverified;
}

export interface ReadPostback {
  readonly event: ConversionEvent;
  /** Every field as it came, under our names; a placeholder that nobody replaced too. */
  readonly raw: Partial<Record<PostbackField, string>>;
  /** What could not be read, with the field as its path. The event stands all the same. */
  readonly problems: readonly Problem[];
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

const isStatus = (word: string): word is Status => (statuses as readonly string[]).includes(word);

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

/**
 * Reads a postback of the journal by its network's profile. It never fails: what cannot be read is a problem
 * beside the event, and the raw record stays what it is.
 */
export const readPostback = (
  record: PostbackRecord,
  profile: Pick<PostbackProfile, 'fields' | 'statuses'>,
  networkCurrency: string,
): ReadPostback => {
  const parameters = parametersOf(record);
  const raw: Partial<Record<PostbackField, string>> = {};
  /** What of it is a value. */
  const said: Partial<Record<PostbackField, string>> = {};
  const problems: Problem[] = [];
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

  if (raw.click === undefined)
    problems.push({ path: 'click', message: 'No click ID came, so it cannot be matched exactly.' });

  const currency = (said.currency ?? networkCurrency).toUpperCase();
  let amount: Minor | null = null;
  if (said.amount !== undefined) {
    const read = readAmount(said.amount, currency);
    if (read.ok) amount = read.value;
    else problems.push(...read.problems);
  }

  let status: Status = 'pending';
  if (said.status !== undefined) {
    const word = said.status.toLowerCase();
    const meant = Object.hasOwn(profile.statuses, word) ? profile.statuses[word] : undefined;
    if (meant !== undefined) status = meant;
    else if (isStatus(word)) status = word;
    else
      problems.push({
        path: 'status',
        message: `"${said.status}" is no state this network is known to use; taken as pending.`,
      });
  }

  let at = record.at;
  if (said.at !== undefined) {
    const read = readTime(said.at);
    if (read === undefined)
      problems.push({
        path: 'at',
        message: `"${said.at}" is no time with a zone; the time of arrival is used.`,
      });
    else at = read;
  }

  return {
    event: {
      network: record.network,
      click: said.click ?? '',
      ...(raw.click !== undefined && said.click === undefined && { unfilled: raw.click }),
      event: (said.event ?? 'sale').toLowerCase(),
      status,
      amount,
      whole: amount !== null && exponentOf(currency) > 0 && !said.amount?.includes('.'),
      currency,
      txn: said.txn ?? '',
      at,
      arrived: record.at,
      seq: record.seq,
      ...(record.unverified && { unverified: record.unverified }),
    },
    raw,
    problems,
  };
};
