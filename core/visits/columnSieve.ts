import { heldBranches } from '#core/hop';
import type { Columns } from './columns.ts';
import { segmentRows } from './columns.ts';
import type { Outcome, SieveRules } from './sieve.ts';

/** The outcomes by their number in the columns. */
export const outcomes = ['test', 'prefetch', 'bot', 'held', 'again', 'counted'] as const satisfies Outcome[];
const [isTest, isPrefetch, isBot, isHeld, isAgain, isCounted] = [0, 1, 2, 3, 4, 5];

/** Gives whole numbers to pairs of 32-bit words, from 0 in the order in which they come; open addressing. */
class Pairs {
  #size = 1 << 16;
  #keys = new Uint32Array(this.#size * 2);
  #numbers = new Int32Array(this.#size).fill(-1);
  count = 0;

  number(high: number, low: number): number {
    if (this.count * 2 >= this.#size) this.#grow();
    const place = this.#place(high, low);
    const known = this.#numbers[place] ?? -1;
    if (known >= 0) return known;
    this.#keys[place * 2] = high;
    this.#keys[place * 2 + 1] = low;
    return (this.#numbers[place] = this.count++);
  }

  #place(high: number, low: number): number {
    const mask = this.#size - 1;
    let place = (Math.imul(high ^ Math.imul(low, 0x9e3779b1), 0x85ebca6b) >>> 7) & mask;
    while (
      (this.#numbers[place] ?? -1) >= 0 &&
      (this.#keys[place * 2] !== high || this.#keys[place * 2 + 1] !== low)
    )
      place = (place + 1) & mask;
    return place;
  }

  #grow(): void {
    const [keys, numbers, size] = [this.#keys, this.#numbers, this.#size];
    this.#size *= 2;
    this.#keys = new Uint32Array(this.#size * 2);
    this.#numbers = new Int32Array(this.#size).fill(-1);
    for (let old = 0; old < size; old++) {
      const number = numbers[old] ?? -1;
      if (number < 0) continue;
      const [high, low] = [keys[old * 2] ?? 0, keys[old * 2 + 1] ?? 0];
      const place = this.#place(high, low);
      this.#keys[place * 2] = high;
      this.#keys[place * 2 + 1] = low;
      this.#numbers[place] = number;
    }
  }
}

const grown = <T extends Float64Array | Int32Array>(array: T, length: number, make: (n: number) => T): T => {
  if (length <= array.length) return array;
  const larger = make(Math.max(length, array.length * 2));
  larger.set(array);
  return larger;
};

/**
 * The sieve over columns: the same outcomes as `makeSieve` gives record by record. It goes on where it stopped, so that
 * new rows cost no more than themselves.
 */
export class ColumnSieve {
  readonly #columns: Columns;
  readonly #isRobot: (userAgent: string) => boolean;
  readonly #rules: SieveRules;
  readonly #visitors = new Pairs();
  readonly #visits = new Pairs();
  /** Numbers of visitors who made a test hop, where that makes all they ask for a test. */
  readonly #own = new Set<number>();
  /** By user agent: 0 not asked yet, 1 a person's, 2 a robot's. */
  #robots = new Uint8Array(256);
  /** By visitor: the newest row, plus 1; by row: the visitor's row before it, plus 1. */
  #newest = new Int32Array(1024);
  #before = new Int32Array(1024);
  /** By visitor and link: when last counted. */
  #counted = new Float64Array(1024);
  readonly #held: (row: number, status: number) => boolean;
  #done = 0;
  /** The outcome of each row, a segment at a time. */
  readonly outcomes: Uint8Array[] = [];
  /** How many rows had each outcome. */
  readonly counts = new Float64Array(outcomes.length);

  constructor(columns: Columns, isRobot: (userAgent: string) => boolean, rules: SieveRules) {
    this.#columns = columns;
    this.#isRobot = isRobot;
    this.#rules = rules;
    const held: ReadonlySet<string> = new Set(heldBranches);
    this.#held = (row, status) =>
      status === 200 ? held.has(columns.text('branch', row)) : status < 300 || status >= 400;
  }

  outcome(row: number): Outcome {
    return outcomes[this.outcomes[Math.floor(row / segmentRows)]?.[row % segmentRows] ?? 0] ?? 'counted';
  }

  /** Sieves the rows that came since the last time. */
  go(): void {
    const columns = this.#columns;
    const { rows } = columns;
    this.#before = grown(this.#before, rows, (n) => new Int32Array(n));
    while (this.#done < rows) {
      const n = Math.floor(this.#done / segmentRows);
      const segment = columns.segmentOf(this.#done);
      const of = (this.outcomes[n] ??= new Uint8Array(segmentRows));
      const first = n * segmentRows;
      const end = Math.min(rows - first, segmentRows);
      for (let i = this.#done - first; i < end; i++) {
        const outcome = this.#sift(segment, i, first + i);
        of[i] = outcome;
        this.counts[outcome] = (this.counts[outcome] ?? 0) + 1;
      }
      this.#done = first + end;
    }
  }

  #sift(segment: ReturnType<Columns['segmentOf']>, i: number, row: number): number {
    const flags = segment.flags[i] ?? 0;
    const test = (flags & 2) !== 0;
    if (test && !this.#rules.ownByTest) return isTest;
    if ((flags & 1) !== 0 && !test) return isPrefetch;
    const at = segment.at[i] ?? 0;
    const visitor = this.#visitors.number(segment.visitor[i * 2] ?? 0, segment.visitor[i * 2 + 1] ?? 0);
    if (test) this.#own.add(visitor);
    if (test || (this.#own.size > 0 && this.#own.has(visitor))) return isTest;
    const burst = this.#burst(visitor, row, at);
    if ((flags & 4) !== 0 || burst || this.#robot(segment.ua[i] ?? 0)) return isBot;
    if (this.#held(row, segment.status[i] ?? 0)) return isHeld;
    const visit = this.#visits.number(visitor, segment.link[i] ?? 0);
    if (visit >= this.#counted.length)
      this.#counted = grown(this.#counted, visit + 1, (n) => new Float64Array(n));
    const last = this.#counted[visit] ?? 0;
    // Time 0 stands for never; a click at that very moment of 1970 is counted a millisecond later.
    if (last !== 0 && at - (last - 1) < this.#rules.againMinutes * 60_000) return isAgain;
    this.#counted[visit] = at + 1;
    return isCounted;
  }

  #burst(visitor: number, row: number, at: number): boolean {
    if (visitor >= this.#newest.length)
      this.#newest = grown(this.#newest, visitor + 1, (n) => new Int32Array(n));
    const since = at - this.#rules.burstSeconds * 1000;
    let previous = this.#newest[visitor] ?? 0;
    this.#before[row] = previous;
    this.#newest[visitor] = row + 1;
    for (let seen = 1; previous > 0; seen++) {
      if (this.#columns.at(previous - 1) <= since) return false;
      if (seen >= this.#rules.burstRequests) return true;
      previous = this.#before[previous - 1] ?? 0;
    }
    return false;
  }

  #robot(ua: number): boolean {
    if (ua >= this.#robots.length) {
      const larger = new Uint8Array(Math.max(ua + 1, this.#robots.length * 2));
      larger.set(this.#robots);
      this.#robots = larger;
    }
    if (this.#robots[ua] === 0) {
      const text = this.#columns.dictionaries.ua.texts[ua] ?? '';
      this.#robots[ua] = text === '' || this.#isRobot(text) ? 2 : 1;
    }
    return this.#robots[ua] === 2;
  }
}
