import { createHmac, timingSafeEqual } from 'node:crypto';
import type { Unsure } from '#core/visits';
import proxyaddr from 'proxy-addr';
import type { TableNetwork } from '../feed/index.ts';

/** Takes one pair out of a query or form, every other byte left as it came; gives its raw value too. */
const without = (text: string, name: string): { rest: string; value: string | undefined } => {
  let value: string | undefined;
  const rest = text.split('&').filter((pair) => {
    if (!pair.startsWith(`${name}=`)) return true;
    value ??= pair.slice(name.length + 1);
    return false;
  });
  return { rest: rest.join('&'), value };
};

const signed = (text: string, { parameter, secret }: NonNullable<TableNetwork['signature']>): boolean => {
  const { rest, value } = without(text, parameter);
  if (value === undefined) return false;
  const expected = createHmac('sha256', secret).update(rest, 'latin1').digest();
  const said = /^[0-9a-f]{64}$/i.test(value)
    ? Buffer.from(value, 'hex')
    : Buffer.from(decodeURIComponent(value.replace(/%(?![0-9a-f]{2})/gi, '%25')), 'base64');
  return said.length === expected.length && timingSafeEqual(said, expected);
};

/**
 * Why nobody can say that a postback came from its network: its sender is not on the list, or its HMAC-SHA-256 (RFC 2104)
 * is missing or wrong. The signature is of the query, or of the form where it stands in that, as it came and without the
 * pair that holds it; written in hex or base64. Undefined where all is well.
 */
export const doubtOf = (
  { senders, signature }: Pick<TableNetwork, 'senders' | 'signature'>,
  address: string,
  query: string,
  body: string | null,
): Unsure | undefined => {
  if (senders && senders.length > 0) {
    // Node names an IPv4 peer of a socket for both kinds in the form of IPv6.
    const bare = address.startsWith('::ffff:') && address.includes('.') ? address.slice(7) : address;
    let known: boolean;
    try {
      known = proxyaddr.compile([...senders])(bare, 0);
    } catch {
      known = false;
    }
    if (!known) return 'sender';
  }
  if (signature && !signed(query, signature) && !(body !== null && signed(body, signature)))
    return 'signature';
  return undefined;
};
