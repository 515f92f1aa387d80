import { element } from '#core/catalogue';

/** Values under which a visitor was counted: the first stands by itself, as most have no other. */
interface SeenUnder {
  /** By visitor, the place of the first value plus 1. */
  first: Uint32Array;
  /** Other values of the same visitor, as one number of both. */
  readonly others: Set<number>;
}

/** The visitors of one day, numbered from 0 in the order in which they come (open addressing), and what each was counted under. */
export class VisitorsOfDay {
  #size = 1 << 10;
  /** Both halves of the visitor. */
  #keys = new Uint32Array(this.#size * 2);
  #numbers = new Int32Array(this.#size).fill(-1);
  #count = 0;
  readonly #seen: readonly SeenUnder[];

  /** @param breakdowns how many different things they are counted by */
  constructor(breakdowns: number) {
    this.#seen = Array.from({ length: breakdowns }, () => ({
      first: new Uint32Array(1 << 9),
      others: new Set<number>(),
    }));
  }

  /** The number of a visitor. */
  number(high: number, low: number): number {
    if (this.#count * 2 >= this.#size) this.#grow();
    const place = this.#place(high, low);
    const known = element(this.#numbers[place]);
    if (known >= 0) return known;
    this.#keys[place * 2] = high;
    this.#keys[place * 2 + 1] = low;
    return (this.#numbers[place] = this.#count++);
  }

  /**
   * Whether a visitor is counted under a value for the first time.
   *
   * @param breakdown which of them
   * @param code place of the value among `values` of them
   */
  isNew(breakdown: number, visitor: number, code: number, values: number): boolean {
    const seen = element(this.#seen[breakdown]);
    if (visitor >= seen.first.length) {
      const larger = new Uint32Array(Math.max(visitor + 1, seen.first.length * 2));
      larger.set(seen.first);
      seen.first = larger;
    }
    const first = element(seen.first[visitor]);
    if (first === code + 1) return false;
    if (first === 0) {
      seen.first[visitor] = code + 1;
      return true;
    }
    const other = visitor * values + code;
    if (seen.others.has(other)) return false;
    seen.others.add(other);
    return true;
  }

  #place(high: number, low: number): number {
    const keys = this.#keys;
    const mask = this.#size - 1;
    const mixed = Math.imul(high ^ Math.imul(low, 0x9e3779b1), 0x85ebca6b);
    let place = (mixed ^ (mixed >>> 15)) & mask;
    while (element(this.#numbers[place]) >= 0 && (keys[place * 2] !== high || keys[place * 2 + 1] !== low))
      place = (place + 1) & mask;
    return place;
  }

  #grow(): void {
    const [keys, numbers, size] = [this.#keys, this.#numbers, this.#size];
    this.#size *= 2;
    this.#keys = new Uint32Array(this.#size * 2);
    this.#numbers = new Int32Array(this.#size).fill(-1);
    for (let old = 0; old < size; old++) {
      const number = element(numbers[old]);
      if (number < 0) continue;
      const [high, low] = [element(keys[old * 2]), element(keys[old * 2 + 1])];
      const place = this.#place(high, low);
      this.#keys[place * 2] = high;
      this.#keys[place * 2 + 1] = low;
      this.#numbers[place] = number;
    }
  }
}
