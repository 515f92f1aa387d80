import type { IncomingMessage } from 'node:http';
import ipaddr from 'ipaddr.js';
import type { JournalDraft } from '#core/visits';
import { MinuteLimit } from './minuteLimit.ts';
import type { Peers } from './peer.ts';

/** How often what was not written is told, in milliseconds. */
const tellMs = 60_000;
/** Links that are told by name in one record; the rest share one entry. */
const mostLinks = 100;

/** A proxy whose forwarding headers nobody said to heed. */
export interface UnnamedProxy {
  readonly address: string;
  /** When it was last seen; milliseconds since 1970 UTC. */
  readonly at: number;
}

export interface AdmissionParts {
  readonly peers: Peers;
  /** Most anonymous requests of one address that are written down within a minute. */
  readonly recordsPerMinute: number;
  readonly append: (draft: JournalDraft) => void;
}

/** True for an address inside a network, where only a proxy of the person's own can stand. */
const isInside = (address: string): boolean =>
  ipaddr.isValid(address) && ipaddr.process(address).range() !== 'unicast';

/**
 * Says which anonymous requests are written down, so that nobody can fill the disk. Beyond an address's limit they are
 * answered all the same, and a record a minute tells how many were not written, by link.
 *
 * Where a proxy inside the network forwards and nobody named it, everyone behind it has its address: then nothing is
 * limited, and `unnamedProxy` tells of it. A forwarding header from a public address changes nothing, since anybody can
 * send one.
 */
export class Admission {
  readonly #parts: AdmissionParts;
  readonly #limit: MinuteLimit;
  #lost: { count: number; at: number; until: number; links: Map<string, number> } | undefined;
  #timer: NodeJS.Timeout | undefined;
  #lastPeer = { address: '', inside: false };
  unnamedProxy: UnnamedProxy | undefined;

  constructor(parts: AdmissionParts) {
    this.#parts = parts;
    this.#limit = new MinuteLimit(parts.recordsPerMinute);
  }

  /** The same as `takes`, for a request whose headers were not read yet. */
  admits(address: string, request: IncomingMessage, at: number, link?: string): boolean {
    const { headers } = request;
    const forwarded =
      headers['x-forwarded-for'] !== undefined ||
      headers.forwarded !== undefined ||
      headers['x-real-ip'] !== undefined;
    return this.takes(address, forwarded, request, at, link);
  }

  /**
   * True where a request is to be written down; counts it where it is not.
   *
   * @param address the visitor's, as far as it is known
   * @param forwarded it carries a header that a proxy adds
   * @param link of a hop
   */
  takes(address: string, forwarded: boolean, request: IncomingMessage, at: number, link?: string): boolean {
    if (forwarded && !this.#parts.peers.viaTrusted(request) && this.#isUnnamedProxy(request, at)) return true;
    if (this.#limit.take(address, at)) return true;
    this.#count(at, link);
    return false;
  }

  #isUnnamedProxy(request: IncomingMessage, at: number): boolean {
    const address = request.socket.remoteAddress ?? '';
    // Requests of one proxy come one after the other.
    if (address !== this.#lastPeer.address) this.#lastPeer = { address, inside: isInside(address) };
    if (this.#lastPeer.inside) this.unnamedProxy = { address, at };
    return this.#lastPeer.inside;
  }

  #count(at: number, link: string | undefined): void {
    this.#lost ??= { count: 0, at, until: at, links: new Map() };
    const lost = this.#lost;
    lost.count += 1;
    lost.until = at;
    if (link !== undefined) {
      const name = lost.links.has(link) || lost.links.size < mostLinks ? link : '';
      lost.links.set(name, (lost.links.get(name) ?? 0) + 1);
    }
    this.#timer ??= setTimeout(() => this.tell(), tellMs);
  }

  /** Writes how many were not written since it was last told. */
  tell(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    const lost = this.#lost;
    this.#lost = undefined;
    if (lost)
      this.#parts.append({
        kind: 'lost',
        at: lost.at,
        until: lost.until,
        count: lost.count,
        why: 'limit',
        links: Object.fromEntries(lost.links),
      });
  }
}
