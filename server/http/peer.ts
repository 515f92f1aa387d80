import type { IncomingMessage } from 'node:http';
import proxyaddr from 'proxy-addr';

/** Who asked: the peer itself, or what a trusted proxy says of it. */
export interface Peers {
  /** The visitor's address. */
  address(request: IncomingMessage): string;
  /** True when the request came through a proxy whose headers count. */
  viaTrusted(request: IncomingMessage): boolean;
}

/**
 * Reads forwarding headers from trusted proxies alone.
 *
 * @param trusted addresses and networks, such as `127.0.0.1` or `10.0.0.0/8`
 * @throws TypeError when one of them is no address
 */
export const makePeers = (trusted: readonly string[]): Peers => {
  const direct = (request: IncomingMessage) => request.socket.remoteAddress ?? '';
  if (trusted.length === 0) return { address: direct, viaTrusted: () => false };
  const trust = proxyaddr.compile([...trusted]);
  return {
    address: (request) => proxyaddr(request, trust),
    viaTrusted: (request) => trust(direct(request), 0),
  };
};
