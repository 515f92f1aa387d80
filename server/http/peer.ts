import type { IncomingMessage } from 'node:http';
import ipaddr from 'ipaddr.js';
import proxyaddr from 'proxy-addr';

/** Who asked: the peer itself, or what a trusted proxy says of it. */
export interface Peers {
  /** The visitor's address. */
  address(request: IncomingMessage): string;
  /** True for a request of this machine's or of a trusted proxy's own, made for nobody else. */
  isNeighbour(request: IncomingMessage): boolean;
  /** True when the request came through a proxy whose headers count. */
  viaTrusted(request: IncomingMessage): boolean;
}

/** Headers by which proxies tell that they ask for somebody else (RFC 7239, RFC 9110 §7.6.3, and those of before). */
const forwarding = [
  'forwarded',
  'via',
  'x-forwarded-for',
  'x-forwarded-host',
  'x-forwarded-proto',
  'x-real-ip',
];

const isLoopback = (address: string): boolean =>
  ipaddr.isValid(address) && ipaddr.process(address).range() === 'loopback';

/** True where a proxy on this machine is trusted. */
export const trustsThisMachine = (trusted: readonly string[]): boolean =>
  trusted.length > 0 && proxyaddr.compile([...trusted])('127.0.0.1', 0);

/**
 * Reads forwarding headers from trusted proxies alone.
 *
 * @param trusted addresses and networks, such as `127.0.0.1` or `10.0.0.0/8`
 * @throws TypeError when one of them is no address
 */
export const makePeers = (trusted: readonly string[]): Peers => {
  const direct = (request: IncomingMessage) => request.socket.remoteAddress ?? '';
  // A proxy on this machine makes everybody loopback, so what was forwarded for somebody is that somebody's.
  const isOwn = ({ headers }: IncomingMessage) => forwarding.every((name) => headers[name] === undefined);
  if (trusted.length === 0)
    return {
      address: direct,
      viaTrusted: () => false,
      isNeighbour: (request) => isOwn(request) && isLoopback(direct(request)),
    };
  const trust = proxyaddr.compile([...trusted]);
  return {
    address: (request) => proxyaddr(request, trust),
    isNeighbour: (request) => isOwn(request) && (isLoopback(direct(request)) || trust(direct(request), 0)),
    viaTrusted: (request) => trust(direct(request), 0),
  };
};
