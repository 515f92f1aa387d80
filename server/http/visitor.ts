import { hash, randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import ipaddr from 'ipaddr.js';
import { replaceFile } from '../dataDir.ts';
import { bareAddress } from './address.ts';

/** An address as far as it counts for knowing a visitor: IPv4 whole, IPv6 by its /64. */
export const visitorAddress = (address: string): string => {
  if (!address.includes(':')) return address;
  const bare = bareAddress(address);
  if (!bare.includes(':')) return bare;
  const [withoutZone = ''] = bare.split('%', 1);
  if (!ipaddr.isValid(withoutZone)) return address;
  const parsed = ipaddr.process(withoutZone);
  return parsed.kind() === 'ipv6' ? parsed.toByteArray().slice(0, 8).join('.') : parsed.toString();
};

const dayOf = (at: number): number => Math.floor(at / 86_400_000);

/**
 * Turns address and user agent into a visitor known for one UTC day. The salt changes at 00:00 UTC, outlives a
 * restart in a file only its owner may read, and is then overwritten: nobody is known for longer than a day.
 */
export class Visitors {
  readonly #path: string;
  readonly #log: (message: string, detail: object) => void;
  #day = -1;
  #salt = '';
  #dayEnd = 0;

  constructor(path: string, log: (message: string, detail: object) => void = () => undefined) {
    this.#path = path;
    this.#log = log;
  }

  /**
   * 16 hex digits: the first half of a keyed SHA-256. `at` is milliseconds since 1970 UTC. A day that is over has no
   * salt any more: who is asked for late, or after a clock was set back, is known as of the day that began.
   */
  of(address: string, userAgent: string, at: number): string {
    if (at >= this.#dayEnd) this.#turnDay(dayOf(at));
    return hash('sha256', `${this.#salt}${visitorAddress(address)}|${userAgent}`, 'hex').slice(0, 16);
  }

  #turnDay(day: number): void {
    const kept = this.#day === -1 ? this.#read() : undefined;
    this.#day = day;
    this.#dayEnd = (day + 1) * 86_400_000;
    if (kept?.day === day) {
      this.#salt = kept.salt;
      return;
    }
    // Where the disk takes no salt, the day still has one, until a restart.
    this.#salt = randomBytes(32).toString('base64url');
    replaceFile(this.#path, `${day} ${this.#salt}\n`).catch((error: unknown) =>
      this.#log('the salt could not be kept; after a restart visitors count anew', { error: String(error) }),
    );
  }

  #read(): { day: number; salt: string } | undefined {
    try {
      const [day, salt] = readFileSync(this.#path, 'utf8').trim().split(' ');
      return salt === undefined ? undefined : { day: Number(day), salt };
    } catch {
      return undefined;
    }
  }
}
