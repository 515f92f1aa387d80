/** Draws that are the same each time for one seed (mulberry32, in the public domain). */
export class Chance {
  #state: number;

  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** A number from 0 up to 1. */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let t = this.#state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  }

  /** A whole number from 0 to one less than `n`. */
  below(n: number): number {
    return Math.floor(this.next() * n);
  }

  one<T>(list: readonly T[]): T {
    const found = list[this.below(list.length)];
    if (found === undefined) throw new Error('Nothing to draw from.');
    return found;
  }

  bytes(n: number, from = 0, to = 255): Buffer {
    return Buffer.from(Array.from({ length: n }, () => from + this.below(to - from + 1)));
  }
}
