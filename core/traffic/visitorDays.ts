import { element } from '#core/catalogue';

/** Gives whole numbers to visitors of days, from 0 in the order in which they come; open addressing. */
export class VisitorDays {
  #size = 1 << 12;
  /** Both halves of the visitor, and the day. */
  #keys = new Uint32Array(this.#size * 3);
  #numbers = new Int32Array(this.#size).fill(-1);
  count = 0;

  number(high: number, low: number, day: number): number {
    if (this.count * 2 >= this.#size) this.#grow();
    const place = this.#place(high, low, day);
    const known = element(this.#numbers[place]);
    if (known >= 0) return known;
    this.#keys[place * 3] = high;
    this.#keys[place * 3 + 1] = low;
    this.#keys[place * 3 + 2] = day;
    return (this.#numbers[place] = this.count++);
  }

  #place(high: number, low: number, day: number): number {
    const keys = this.#keys;
    const mask = this.#size - 1;
    const mixed = Math.imul(high ^ Math.imul(low ^ Math.imul(day, 0xc2b2ae35), 0x9e3779b1), 0x85ebca6b);
    let place = (mixed ^ (mixed >>> 15)) & mask;
    while (
      element(this.#numbers[place]) >= 0 &&
      (keys[place * 3] !== high || keys[place * 3 + 1] !== low || keys[place * 3 + 2] !== day)
    )
      place = (place + 1) & mask;
    return place;
  }

  #grow(): void {
    const [keys, numbers] = [this.#keys, this.#numbers];
    this.#size *= 4;
    this.#keys = new Uint32Array(this.#size * 3);
    this.#numbers = new Int32Array(this.#size).fill(-1);
    for (const [old, number] of numbers.entries()) {
      if (number < 0) continue;
      const key = keys.subarray(old * 3, old * 3 + 3);
      const place = this.#place(element(key[0]), element(key[1]), element(key[2]));
      this.#keys.set(key, place * 3);
      this.#numbers[place] = number;
    }
  }
}
