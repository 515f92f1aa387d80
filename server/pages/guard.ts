import type { LookupAddress } from 'node:dns';
import { lookup } from 'node:dns/promises';
import ipaddr from 'ipaddr.js';
import { isLocalHost } from '#core/catalogue';

/** Where the tracer may go. */
export interface Bounds {
  /** True while the stand-ins run: then `*.localhost` may be asked, on these ports. */
  readonly localPorts: readonly number[];
}

/** An IPv6 address that only wraps an IPv4 one: mapped (`::ffff:…`) or compatible (`::a.b.c.d`, RFC 4291 §2.5.5). */
const unwrapped = (address: string): ipaddr.IPv4 | ipaddr.IPv6 => {
  const parsed = ipaddr.process(address);
  if (parsed.kind() === 'ipv4') return parsed;
  const bytes = parsed.toByteArray();
  const rest = bytes.slice(12);
  // `::` and `::1` have ranges of their own.
  const compatible =
    bytes.slice(0, 12).every((byte) => byte === 0) && rest.slice(0, 3).some((byte) => byte > 0);
  return compatible ? new ipaddr.IPv4(rest) : parsed;
};

/**
 * True for an address that `ipaddr.js` calls unicast, and for no other: private, loopback, link-local, shared, translated
 * (NAT64, 6to4, Teredo), multicast, reserved and unspecified ones are not (the registries of RFC 6890). An IPv6 address that
 * wraps an IPv4 one is as public as that one.
 */
export const isPublicAddress = (address: string): boolean =>
  ipaddr.isValid(address) && unwrapped(address).range() === 'unicast';

/**
 * Finds the one address to connect to for a URL, after every check. The caller connects to this very address, so
 * that a name cannot answer differently the second time.
 *
 * @throws Error with a plain sentence when the tracer may not go there
 */
export const addressFor = async (url: URL, bounds: Bounds): Promise<LookupAddress> => {
  if (url.protocol !== 'http:' && url.protocol !== 'https:')
    throw new Error('Only http and https can be traced.');
  if (url.username !== '' || url.password !== '')
    throw new Error('An address with a user name is not traced.');
  const host = url.hostname.replace(/^\[|\]$/g, '');
  const port = Number(url.port || (url.protocol === 'https:' ? 443 : 80));
  if (isLocalHost(host)) {
    if (host !== 'localhost' && bounds.localPorts.includes(port)) return { address: '127.0.0.1', family: 4 };
    throw new Error('An address of this machine is not traced.');
  }
  if (port !== 80 && port !== 443) throw new Error(`Port ${port} is not traced, only 80 and 443.`);
  const found: LookupAddress[] = ipaddr.isValid(host)
    ? [{ address: host, family: host.includes(':') ? 6 : 4 }]
    : await lookup(host, { all: true }).catch(() => {
        throw new Error(`The name ${host} leads nowhere.`);
      });
  const [first] = found;
  if (!first || !found.every(({ address }) => isPublicAddress(address)))
    throw new Error(`${host} is an address inside a network and is not traced.`);
  return first;
};
