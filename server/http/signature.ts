import { createHmac, timingSafeEqual } from 'node:crypto';
import type { PostbackRecord } from '#core/visits';
import proxyaddr from 'proxy-addr';
import type { TableNetwork } from '../feed/index.ts';
import { bareAddress } from './address.ts';

type Signature = NonNullable<TableNetwork['signature']>;

/** What is known of a postback's sender, as fields of its record. */
export type Verified = Pick<PostbackRecord, 'unverified' | 'signed' | 'signature'>;

/** The pairs of a query or form by their raw names; every other byte left as it came. */
const pairsNamed = (text: string, name: string): { rest: string; values: string[] } => {
  const values: string[] = [];
  const rest = text.split('&').filter((pair) => {
    if (!pair.startsWith(`${name}=`)) return true;
    values.push(pair.slice(name.length + 1));
    return false;
  });
  return { rest: rest.join('&'), values };
};

/** Undoes percent-encoding byte by byte; what is none stays as it stands. Signatures are ASCII, so nothing else matters. */
const unescape = (text: string): string =>
  text.replace(/%([0-9a-f]{2})/gi, (_, byte: string) => String.fromCharCode(Number.parseInt(byte, 16)));

/** The signature of a text, in hex, where it carries the right one; of one that carries two, neither is taken. */
const signatureOf = (text: string, { parameter, secret }: Signature): string | undefined => {
  const { rest, values } = pairsNamed(text, parameter);
  const [value] = values;
  if (value === undefined || values.length > 1) return undefined;
  const expected = createHmac('sha256', secret).update(rest, 'latin1').digest();
  const bare = unescape(value);
  const given = Buffer.from(bare, /^[0-9a-f]{64}$/i.test(bare) ? 'hex' : 'base64');
  return given.length === expected.length && timingSafeEqual(given, expected)
    ? expected.toString('hex')
    : undefined;
};

/** A moment as networks write it: Unix seconds or milliseconds, or ISO 8601 with a zone. */
const timeOf = (text: string): number => {
  if (/^\d{10}$/.test(text)) return Number(text) * 1000;
  if (/^\d{13}$/.test(text)) return Number(text);
  return /^\d{4}-\d\d-\d\dT.*(?:Z|[+-]\d\d:?\d\d)$/.test(text) ? Date.parse(text) : NaN;
};

const isOnTime = (text: string, { time }: Signature, at: number): boolean => {
  if (!time) return true;
  const [value = ''] = pairsNamed(text, time.parameter).values;
  return Math.abs(at - timeOf(unescape(value))) <= time.windowSeconds * 1000;
};

const isSender = (senders: readonly string[], address: string): boolean => {
  try {
    return proxyaddr.compile([...senders])(bareAddress(address), 0);
  } catch {
    return false;
  }
};

/**
 * What is known of who sent a postback. `unverified` tells why nobody can say that it came from its network: its sender is not
 * on the list, its HMAC-SHA-256 (RFC 2104) is missing or wrong, or what is signed carries a time too far from `at`.
 *
 * A signature is of the query or of the form it stands in, as it came and without the pair that holds it, in hex or base64.
 * It covers that part alone, and `signed` tells which. `query` is Latin-1, as Node reads a request's address.
 *
 * @param body the body's bytes, or null where there is none
 * @param at milliseconds since 1970 UTC
 */
export const verify = (
  { senders, signature }: Pick<TableNetwork, 'senders' | 'signature'>,
  address: string,
  query: string,
  body: Buffer | null,
  at: number,
): Verified => {
  if (senders && senders.length > 0 && !isSender(senders, address)) return { unverified: 'sender' };
  if (!signature) return {};
  const text = body === null ? '' : body.toString('latin1');
  const ofQuery = signatureOf(query, signature);
  const ofBody = body === null ? undefined : signatureOf(text, signature);
  if (ofQuery === undefined && ofBody === undefined) return { unverified: 'signature' };
  const covered = [...(ofQuery === undefined ? [] : [query]), ...(ofBody === undefined ? [] : [text])];
  return {
    ...(!covered.some((part) => isOnTime(part, signature, at)) && { unverified: 'time' as const }),
    signed: ofQuery === undefined ? 'body' : ofBody === undefined ? 'query' : 'both',
    signature: [ofQuery, ofBody].filter((mac) => mac !== undefined).join('.'),
  };
};
