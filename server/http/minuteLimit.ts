import { visitorAddress } from './visitor.ts';

const minuteMs = 60_000;

/**
 * Counts by address within each minute of the clock; an IPv6 address counts by its /64, as a visitor does. It forgets
 * everything when the minute is over, and holds no more than `mostAddresses`: those that come after them share one count.
 */
export class MinuteLimit {
  readonly #most: number;
  readonly #mostAddresses: number;
  readonly #counts = new Map<string, number>();
  #minute = -1;

  constructor(most: number, mostAddresses = 50_000) {
    this.#most = most;
    this.#mostAddresses = mostAddresses;
  }

  /** Counts one more; true while the address is within its limit. `at` is milliseconds since 1970 UTC. */
  take(address: string, at: number): boolean {
    const minute = Math.floor(at / minuteMs);
    if (minute !== this.#minute) {
      this.#minute = minute;
      this.#counts.clear();
    }
    let name = address.includes(':') ? visitorAddress(address) : address;
    let count = this.#counts.get(name);
    if (count === undefined && this.#counts.size >= this.#mostAddresses) {
      name = '';
      count = this.#counts.get(name);
    }
    const next = (count ?? 0) + 1;
    if (next > this.#most) return false;
    this.#counts.set(name, next);
    return true;
  }
}
