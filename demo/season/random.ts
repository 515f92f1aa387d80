/** A reproducible source of chance: the same seed gives the same numbers (mulberry32). */
export class Chance {
  #state: number;
  constructor(seed: number) {
    this.#state = seed | 0;
  }
  /** From 0 up to 1. */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.#state ^ (this.#state >>> 15), 1 | this.#state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  }
  /** A whole number from 0 up to `below`. */
  whole(below: number): number {
    return Math.floor(this.next() * below);
  }
  chance(of: number): boolean {
    return this.next() < of;
  }
  pick<T>(list: readonly [T, ...T[]]): T {
    return list[this.whole(list.length)] ?? list[0];
  }
  /** One of a list, as often as its weight says. */
  weighted<T>(list: readonly (readonly [T, number])[]): T {
    let at = this.next() * list.reduce((sum, [, weight]) => sum + weight, 0);
    for (const [one, weight] of list) if ((at -= weight) < 0) return one;
    const last = list.at(-1);
    if (!last) throw new Error('nothing to choose from');
    return last[0];
  }
  /** Around 0 with deviation 1 (Box and Muller). */
  normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.next())) * Math.cos(2 * Math.PI * this.next());
  }
  bytes(count: number): Uint8Array {
    return Uint8Array.from({ length: count }, () => this.whole(256));
  }
  hex(digits: number): string {
    let text = '';
    while (text.length < digits) text += this.whole(0x1000000).toString(16).padStart(6, '0');
    return text.slice(0, digits);
  }
}
