import { element } from '#core/catalogue';
import { notRedirectedBranches } from '#core/hop';
import type { Segment, VisitColumns } from './columns.ts';
import { flagBits, segmentRows } from './columns.ts';
import type { BotKind, Outcome, ClassificationRules, MachineRule } from './classificationRules.ts';
import { botKinds, scannerRule } from './classificationRules.ts';

/** The outcomes, each at its number in the columns. */
export const outcomes = [
  'test',
  'prefetch',
  'bot',
  'not redirected',
  'repeat',
  'counted',
] as const satisfies Outcome[];

/** The number by which each outcome stands in the columns. */
export const outcomeNumber = {
  test: 0,
  prefetch: 1,
  bot: 2,
  'not redirected': 3,
  repeat: 4,
  counted: 5,
} as const satisfies Record<Outcome, number>;

const kindNumber = Object.fromEntries(botKinds.map((kind, i) => [kind, i])) as Record<BotKind, number>; // each was just put in
const scannerMs = scannerRule.seconds * 1000;

/** Gives whole numbers to pairs of 32-bit words, from 0 in the order in which they come; open addressing. */
class Pairs {
  #size = 1 << 16;
  #keys = new Uint32Array(this.#size * 2);
  #numbers = new Int32Array(this.#size).fill(-1);
  count = 0;

  number(high: number, low: number): number {
    if (this.count * 2 >= this.#size) this.#grow();
    const place = this.#place(high, low);
    const known = element(this.#numbers[place]);
    if (known >= 0) return known;
    this.#keys[place * 2] = high;
    this.#keys[place * 2 + 1] = low;
    return (this.#numbers[place] = this.count++);
  }

  #place(high: number, low: number): number {
    const mask = this.#size - 1;
    let place = (Math.imul(high ^ Math.imul(low, 0x9e3779b1), 0x85ebca6b) >>> 7) & mask;
    while (
      element(this.#numbers[place]) >= 0 &&
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

const grown = <T extends Float64Array | Int32Array | Uint8Array>(
  array: T,
  length: number,
  make: (n: number) => T,
): T => {
  if (length <= array.length) return array;
  const larger = make(Math.max(length, array.length * 2));
  larger.set(array);
  return larger;
};

/**
 * Tells what became of each request of a journal, the first that fits: test, prefetch, bot, not redirected, repeat,
 * counted. Nothing is thrown away; another classification counts the past anew. It goes on where it stopped, so that new
 * rows cost no more than themselves. Only a burst and a mail scanner change what was classified before: all of their requests are a
 * machine's, from the first. A clock that was set back, or requests given back to a server that had lost them, change nothing of it.
 */
export class Classification {
  readonly #columns: VisitColumns;
  readonly #isRobot: (userAgent: string) => boolean;
  readonly #rules: ClassificationRules;
  readonly #isMail: (source: string) => boolean;
  /** By source: 0 not asked yet, 1 none, 2 one whose visits come by mail. */
  #mails = new Uint8Array(256);
  readonly #visitors = new Pairs();
  readonly #visits = new Pairs();
  /** Numbers of visitors who made a test hop, where that makes all they ask for a test. */
  readonly #own = new Set<number>();
  /** By user agent: 0 not asked yet, 1 a person's, 2 a robot's. */
  #robots = new Uint8Array(256);
  /** By source: what of it is treated as machines'; undefined where it was not looked up yet. */
  readonly #treated: (readonly (MachineRule & { readonly named: ReadonlySet<string> })[])[] = [];
  /** By visitor: the newest row, plus 1; by row: the visitor's row before it, plus 1. */
  #newest = new Int32Array(1024);
  #before = new Int32Array(1024);
  /** By visitor: 1 where the newest request belongs to a burst. */
  #bursting = new Uint8Array(1024);
  /** By visitor: 1 where the newest request looks through mail. */
  #scanning = new Uint8Array(1024);
  /** By visitor and link: when last counted. */
  #counted = new Float64Array(1024);
  /** A visitor who was not sent on: the link was closed, archived, or refused. A page that sends on answers 200. */
  readonly #isNotRedirected: (row: number, status: number) => boolean;
  #done = 0;
  /** The outcome of each row, a segment at a time. */
  readonly outcomes: Uint8Array[] = [];
  /** By what each row is a machine's, a segment at a time: places in `botKinds`. */
  readonly kinds: Uint8Array[] = [];
  /** How many rows had each outcome. */
  readonly counts = new Float64Array(outcomes.length);

  /** @param isMail whether visits of a source come by mail */
  constructor(
    columns: VisitColumns,
    isRobot: (userAgent: string) => boolean,
    rules: ClassificationRules,
    isMail: (source: string) => boolean = () => false,
  ) {
    this.#isMail = isMail;
    this.#columns = columns;
    this.#isRobot = isRobot;
    this.#rules = rules;
    const branches: ReadonlySet<string> = new Set(notRedirectedBranches);
    this.#isNotRedirected = (row, status) =>
      status === 200 ? branches.has(columns.text('branch', row)) : status < 300 || status >= 400;
  }

  outcome(row: number): Outcome {
    const number = this.outcomes[Math.floor(row / segmentRows)]?.[row % segmentRows];
    const outcome = row < this.#done && number !== undefined ? outcomes[number] : undefined;
    if (outcome === undefined) throw new RangeError(`row ${row} of ${this.#done} that are classified`);
    return outcome;
  }

  /** Classifies the rows that came since the last time. */
  update(): void {
    const columns = this.#columns;
    const { rows } = columns;
    this.#before = grown(this.#before, rows, (n) => new Int32Array(n));
    while (this.#done < rows) {
      const n = Math.floor(this.#done / segmentRows);
      const segment = columns.segmentOf(this.#done);
      const found = (this.outcomes[n] ??= new Uint8Array(segmentRows));
      this.kinds[n] ??= new Uint8Array(segmentRows);
      const first = n * segmentRows;
      const end = Math.min(rows - first, segmentRows);
      for (let i = this.#done - first; i < end; i++) {
        const outcome = this.#classify(segment, i, first + i);
        found[i] = outcome;
        this.counts[outcome] = element(this.counts[outcome]) + 1;
      }
      this.#done = first + end;
    }
  }

  #classify(segment: Segment, i: number, row: number): number {
    const flags = element(segment.flags[i]);
    const test = (flags & flagBits.test) !== 0;
    if (test && !this.#rules.ownByTest) return outcomeNumber.test;
    if ((flags & flagBits.prefetch) !== 0 && !test) return outcomeNumber.prefetch;
    const at = element(segment.at[i]);
    const visitor = this.#visitors.number(
      element(segment.visitor[i * 2]),
      element(segment.visitor[i * 2 + 1]),
    );
    if (test) this.#own.add(visitor);
    if (test || (this.#own.size > 0 && this.#own.has(visitor))) return outcomeNumber.test;
    const burst = this.#burst(visitor, row, at);
    // The window of a burst's newest request holds that of the one before it.
    if (burst && this.#bursting[visitor] !== 1)
      this.#mark(visitor, row, at, this.#rules.burstSeconds * 1000, 'burst');
    this.#bursting[visitor] = burst ? 1 : 0;
    const scan = this.#looksThroughMail(segment, i, row, at);
    if (scan && this.#scanning[visitor] !== 1) this.#mark(visitor, row, at, scannerMs, 'mail scanner');
    this.#scanning[visitor] = scan ? 1 : 0;
    const kind = this.#kindOf(segment, i, at, burst, scan);
    if (kind !== '') {
      element(this.kinds[Math.floor(row / segmentRows)])[i] = kindNumber[kind];
      return outcomeNumber.bot;
    }
    if (this.#isNotRedirected(row, element(segment.status[i]))) return outcomeNumber['not redirected'];
    const visit = this.#visits.number(visitor, element(segment.link[i]));
    if (visit >= this.#counted.length)
      this.#counted = grown(this.#counted, visit + 1, (n) => new Float64Array(n));
    const last = element(this.#counted[visit]);
    // Time 0 stands for never; a click at that very moment of 1970 is counted a millisecond later.
    if (last !== 0 && Math.abs(at - (last - 1)) < this.#rules.repeatMinutes * 60_000)
      return outcomeNumber.repeat;
    this.#counted[visit] = at + 1;
    return outcomeNumber.counted;
  }

  #burst(visitor: number, row: number, at: number): boolean {
    if (visitor >= this.#newest.length)
      this.#newest = grown(this.#newest, visitor + 1, (n) => new Int32Array(n));
    this.#bursting = grown(this.#bursting, visitor + 1, (n) => new Uint8Array(n));
    this.#scanning = grown(this.#scanning, visitor + 1, (n) => new Uint8Array(n));
    const windowMs = this.#rules.burstSeconds * 1000;
    let previous = element(this.#newest[visitor]);
    this.#before[row] = previous;
    this.#newest[visitor] = row + 1;
    for (let seen = 1; previous > 0; seen++) {
      if (Math.abs(at - this.#columns.at(previous - 1)) >= windowMs) return false;
      if (seen >= this.#rules.burstRequests) return true;
      previous = element(this.#before[previous - 1]);
    }
    return false;
  }

  /**
   * Gives a visitor's requests of a time before its newest to the machine that made them. What had counted of them is taken back, so
   * that a visitor who comes after it is not taken for one who repeats.
   */
  #mark(visitor: number, newest: number, at: number, windowMs: number, kind: BotKind): void {
    const touched = new Set<number>();
    let first = newest;
    for (let row = element(this.#before[newest]) - 1; row >= 0; row = element(this.#before[row]) - 1) {
      if (Math.abs(at - this.#columns.at(row)) >= windowMs) break;
      first = row;
      const outcome = element(this.outcomes[Math.floor(row / segmentRows)]);
      const was = element(outcome[row % segmentRows]);
      const kinds = element(this.kinds[Math.floor(row / segmentRows)]);
      const known = element(kinds[row % segmentRows]);
      if (known === 0 || known > kindNumber[kind]) kinds[row % segmentRows] = kindNumber[kind];
      // The rest of what went on was marked before.
      if (was === outcomeNumber.bot) continue;
      if (was === outcomeNumber.counted) touched.add(this.#visitOf(visitor, row));
      outcome[row % segmentRows] = outcomeNumber.bot;
      this.counts[was] = element(this.counts[was]) - 1;
      this.counts[outcomeNumber.bot] = element(this.counts[outcomeNumber.bot]) + 1;
    }
    for (const visit of touched) this.#counted[visit] = this.#lastCounted(visitor, visit, first);
  }

  #visitOf(visitor: number, row: number): number {
    return this.#visits.number(visitor, element(this.#columns.segmentOf(row).link[row % segmentRows]));
  }

  /** When a visitor's visit was last counted before a row, plus 1; 0 where that is too long ago to matter, or never was. */
  #lastCounted(visitor: number, visit: number, before: number): number {
    const repeatMs = this.#rules.repeatMinutes * 60_000;
    const from = this.#columns.at(before) - repeatMs;
    for (let row = element(this.#before[before]) - 1; row >= 0; row = element(this.#before[row]) - 1) {
      const at = this.#columns.at(row);
      if (at < from) return 0;
      const isCounted =
        this.outcomes[Math.floor(row / segmentRows)]?.[row % segmentRows] === outcomeNumber.counted;
      if (isCounted && this.#visitOf(visitor, row) === visit) return at + 1;
    }
    return 0;
  }

  /** Whether a visitor of a hosting network just asked for one of several links of mailings. */
  #looksThroughMail(segment: Segment, i: number, row: number, at: number): boolean {
    if (!this.#isMailFromHosting(segment, i)) return false;
    const links = new Set([element(segment.link[i])]);
    let other = row;
    for (let n = 1; n < scannerRule.requests; n++) {
      other = element(this.#before[other]) - 1;
      if (other < 0) return false;
      if (Math.abs(at - this.#columns.at(other)) >= scannerMs) return false;
      const of = this.#columns.segmentOf(other);
      if (this.#isMailFromHosting(of, other % segmentRows)) links.add(element(of.link[other % segmentRows]));
      if (links.size >= scannerRule.links) return true;
    }
    return false;
  }

  #isMailFromHosting(segment: Segment, i: number): boolean {
    if ((element(segment.flags[i]) & flagBits.hosting) === 0) return false;
    const source = element(segment.source[i]);
    this.#mails = grown(this.#mails, source + 1, (n) => new Uint8Array(n));
    if (this.#mails[source] === 0)
      this.#mails[source] = this.#isMail(element(this.#columns.dictionaries.source.texts[source])) ? 2 : 1;
    return this.#mails[source] === 2;
  }

  /** By what a request is a machine's; empty where it is none's. */
  #kindOf(segment: Segment, i: number, at: number, burst: boolean, scan: boolean): BotKind {
    const ua = element(segment.ua[i]);
    if (this.#robot(ua)) return this.#columns.dictionaries.ua.texts[ua] === '' ? 'no user agent' : 'declared';
    if ((element(segment.flags[i]) & flagBits.head) !== 0) return 'HEAD';
    if (burst) return 'burst';
    if (scan) return 'mail scanner';
    return this.#isTreated(element(segment.source[i]), ua, at) ? 'treated' : '';
  }

  /** By what the requests of a segment are machines': places in `botKinds`. */
  kindsIn(segment: Segment): Uint8Array {
    return element(this.kinds[this.#columns.segments.indexOf(segment)]);
  }

  /** Whether the person treats a request as a machine's. */
  #isTreated(source: number, ua: number, at: number): boolean {
    const { machines = [] } = this.#rules;
    if (machines.length === 0) return false;
    const { dictionaries } = this.#columns;
    const rules = (this.#treated[source] ??= machines.flatMap((rule) =>
      rule.sources.includes(element(dictionaries.source.texts[source]))
        ? [{ ...rule, named: new Set(rule.agents) }]
        : [],
    ));
    return rules.some(
      ({ from, until, named }) =>
        at >= from && at <= until && (named.size === 0 || named.has(element(dictionaries.ua.texts[ua]))),
    );
  }

  #robot(ua: number): boolean {
    if (ua >= this.#robots.length) {
      const larger = new Uint8Array(Math.max(ua + 1, this.#robots.length * 2));
      larger.set(this.#robots);
      this.#robots = larger;
    }
    if (this.#robots[ua] === 0) {
      const text = element(this.#columns.dictionaries.ua.texts[ua]);
      this.#robots[ua] = text === '' || this.#isRobot(text) ? 2 : 1;
    }
    return this.#robots[ua] === 2;
  }
}
