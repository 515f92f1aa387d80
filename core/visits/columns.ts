import { element, isUlid } from '#core/catalogue';
import { packClick, unpackClick } from './clickWords.ts';
import type { HopRecord } from './records.ts';

/** Most rows of a segment. */
export const segmentRows = 65_536;

/** The columns whose values are places in a dictionary. */
export const textColumns = [
  'link',
  'source',
  'host',
  'branch',
  'ua',
  'country',
  'from',
  'query',
  'lang',
  'first',
] as const;
type TextColumn = (typeof textColumns)[number];
const devices = ['phone', 'tablet', 'desktop'] as const;
/** The bits of a row's flags; between the fourth and the seventh stands the device. */
export const flagBits = { prefetch: 1, test: 2, head: 4, noClick: 8, lookedUp: 64, hosting: 128 } as const;
const { prefetch: prefetchBit, test: testBit, head: headBit, noClick: noClickBit } = flagBits;
const deviceShift = 4;
const deviceMask = 3;

/** Requests as columns: a typed array for each field, texts as places in a dictionary. */
export interface Segment {
  rows: number;
  readonly seq: Uint32Array;
  /** Milliseconds since 1970 UTC. */
  readonly at: Float64Array;
  /** Click IDs as 16 bytes, four words a row. */
  readonly click: Uint32Array;
  /** The visitor's 16 hex digits, two words a row. */
  readonly visitor: Uint32Array;
  readonly status: Uint16Array;
  readonly version: Uint32Array;
  /** Prefetch, test, HEAD, no click ID, and the device. */
  readonly flags: Uint8Array;
  readonly link: Uint32Array;
  readonly source: Uint32Array;
  readonly host: Uint32Array;
  readonly branch: Uint32Array;
  readonly ua: Uint32Array;
  readonly country: Uint32Array;
  readonly from: Uint32Array;
  readonly query: Uint32Array;
  readonly lang: Uint32Array;
  /** The click that led to the page of the person's own on which the link stands; the first place holds no click. */
  readonly first: Uint32Array;
}

/** What is stored of some rows: their columns, and the texts that stand in them for the first time. */
export interface StoredRows {
  readonly segment: Segment;
  readonly added: Readonly<Record<TextColumn, readonly string[]>>;
}

/** A segment with room for some rows, and none yet. */
export const newSegment = (rows: number): Segment => ({
  rows: 0,
  seq: new Uint32Array(rows),
  at: new Float64Array(rows),
  click: new Uint32Array(rows * 4),
  visitor: new Uint32Array(rows * 2),
  status: new Uint16Array(rows),
  version: new Uint32Array(rows),
  flags: new Uint8Array(rows),
  link: new Uint32Array(rows),
  source: new Uint32Array(rows),
  host: new Uint32Array(rows),
  branch: new Uint32Array(rows),
  ua: new Uint32Array(rows),
  country: new Uint32Array(rows),
  from: new Uint32Array(rows),
  query: new Uint32Array(rows),
  lang: new Uint32Array(rows),
  first: new Uint32Array(rows),
});

/** By how much a clock may have been set back for rows to count as in the order of their time, in milliseconds. */
const clockMs = 60_000;
/** How far from the end a click ID is put in its place at once. */
const mostSteps = 64;

const perRow: Readonly<Record<string, number>> = { click: 4, visitor: 2 };
/** Every column of a segment. */
export const columnNames = Object.keys(newSegment(0)).filter((name) => name !== 'rows') as Exclude<
  keyof Segment,
  'rows'
>[];

/** Columns that were not there from the beginning: rows stored before have an empty text in them. */
export const addedColumns = ['first'] as const;
/** What the dictionaries of such columns hold of rows that were stored before. */
export const emptyTexts = Object.fromEntries(addedColumns.map((name) => [name, ['']]));

/** Stored rows with the columns that came after they were stored. */
const withEveryColumn = ({ segment, added }: StoredRows): StoredRows => {
  const known = segment as Partial<Segment> & Pick<Segment, 'rows'>; // an earlier version may have written it
  const missing = addedColumns.filter((name) => known[name] === undefined);
  if (missing.length === 0) return { segment, added };
  const empty = newSegment(segment.rows);
  return {
    segment: { ...segment, ...Object.fromEntries(missing.map((name) => [name, empty[name]])) },
    added: { ...emptyTexts, ...added },
  };
};

/** Some rows of a segment as a segment of their own. */
const slice = (segment: Segment, from: number, to: number): Segment => {
  const part: Record<string, unknown> = { rows: to - from };
  for (const name of columnNames) {
    const width = perRow[name] ?? 1;
    part[name] = segment[name].slice(from * width, to * width);
  }
  return part as unknown as Segment; // every column was just put in
};

/** Texts, each held once, known by their place. */
export class Dictionary {
  readonly texts: string[] = [];
  readonly #places = new Map<string, number>();

  constructor(texts: readonly string[] = []) {
    for (const text of texts) this.place(text);
  }

  place(text: string): number {
    let place = this.#places.get(text);
    if (place === undefined) {
      place = this.texts.length;
      this.texts.push(text);
      this.#places.set(text, place);
    }
    return place;
  }
  /** The place of a text; -1 where it never occurred. */
  find(text: string): number {
    return this.#places.get(text) ?? -1;
  }
}

const visitorWord = (text: string, half: 0 | 1): number => {
  const part = Number.parseInt(text.slice(half * 8, half * 8 + 8), 16);
  return Number.isNaN(part) ? 0 : part;
};

/** The requests of a journal as columns, in its order, with an index over their click IDs. */
export class VisitColumns {
  readonly segments: Segment[] = [];
  /** The newest moment in each segment: a clock that was set back leaves it behind in the middle. */
  readonly newest: number[] = [];
  readonly dictionaries: Readonly<Record<TextColumn, Dictionary>> = {
    link: new Dictionary(),
    source: new Dictionary(),
    host: new Dictionary(),
    branch: new Dictionary(),
    ua: new Dictionary(),
    country: new Dictionary(),
    from: new Dictionary(),
    query: new Dictionary(),
    lang: new Dictionary(),
    first: new Dictionary(['']),
  };
  #rows = 0;
  /** Rows with a click ID, in the order of their IDs; those from `#inOrder` on as they came. */
  #sorted = new Uint32Array(1024);
  #sortedRows = 0;
  #inOrder = 0;
  #newest = -Infinity;
  /**
   * False where rows lie behind others that are newer: they were given back to a server that had lost them, or brought in from an
   * access log. Clocks that were set a little are not meant.
   */
  isByTime = true;
  readonly #probe = new Uint32Array(8);

  get rows(): number {
    return this.#rows;
  }

  /** The segment a row is in; its place there is `row % segmentRows`. */
  segmentOf(row: number): Segment {
    const segment = this.segments[Math.floor(row / segmentRows)];
    if (!segment) throw new RangeError(`row ${row} of ${this.#rows}`);
    return segment;
  }

  /** Puts a request behind the others. */
  add(hop: HopRecord): void {
    const i = this.#rows % segmentRows;
    let segment = this.segments.at(-1);
    if (!segment || i === 0) this.segments.push((segment = newSegment(segmentRows)));
    else if (segment.seq.length < segmentRows) {
      // A segment that was read from storage is as long as it was.
      const whole = newSegment(segmentRows);
      for (const name of columnNames) whole[name].set(segment[name]);
      whole.rows = segment.rows;
      this.segments[this.segments.length - 1] = segment = whole;
    }
    segment.seq[i] = hop.seq;
    segment.at[i] = hop.at;
    segment.status[i] = hop.status;
    segment.version[i] = hop.version;
    segment.visitor[i * 2] = visitorWord(hop.visitor, 0);
    segment.visitor[i * 2 + 1] = visitorWord(hop.visitor, 1);
    for (const name of textColumns) segment[name][i] = this.dictionaries[name].place(hop[name] ?? '');
    const known = hop.click.length === 26 && packClick(hop.click, segment.click, i * 4);
    if (!known) segment.click.fill(0, i * 4, i * 4 + 4);
    segment.flags[i] =
      (hop.prefetch ? prefetchBit : 0) |
      (hop.test ? testBit : 0) |
      (hop.method === 'HEAD' ? headBit : 0) |
      (known ? 0 : noClickBit) |
      (devices.indexOf(hop.device) << deviceShift) |
      (hop.hosting === undefined ? 0 : flagBits.lookedUp) |
      (hop.hosting === true ? flagBits.hosting : 0);
    segment.rows = i + 1;
    this.#sawTime(this.#rows, hop.at);
    this.#rows += 1;
    if (known) this.#index(this.#rows - 1);
  }

  /**
   * Takes stored rows behind the others. They are not copied when they begin a segment.
   *
   * @param skip how many of them are held already
   */
  take(rows: StoredRows, skip = 0): void {
    const { segment: stored, added } = withEveryColumn(rows);
    for (const name of textColumns) for (const text of added[name]) this.dictionaries[name].place(text);
    if (skip >= stored.rows) return;
    const segment = skip === 0 ? stored : slice(stored, skip, stored.rows);
    const filled = this.#rows % segmentRows;
    if (filled === 0) this.segments.push(segment);
    else {
      let last = this.segments.at(-1);
      if (last && last.seq.length < segmentRows) {
        const whole = newSegment(segmentRows);
        for (const name of columnNames) whole[name].set(last[name]);
        whole.rows = last.rows;
        this.segments[this.segments.length - 1] = last = whole;
      }
      if (!last) throw new Error('a filled segment is there');
      for (const name of columnNames) last[name].set(segment[name], filled * (perRow[name] ?? 1));
      last.rows += segment.rows;
    }
    const from = this.#rows;
    this.#rows += segment.rows;
    for (let row = from; row < this.#rows; row++) {
      const flags = element(segment.flags[row - from]);
      this.#sawTime(row, element(segment.at[row - from]));
      if ((flags & noClickBit) === 0) this.#index(row);
    }
  }

  /**
   * Rows for storage, of one segment.
   *
   * @param known how many texts of each dictionary are stored already
   */
  store(from: number, to: number, known: Readonly<Partial<Record<TextColumn, number>>>): StoredRows {
    const added = {} as Record<TextColumn, string[]>; // filled in the next line
    for (const name of textColumns) added[name] = this.dictionaries[name].texts.slice(known[name] ?? 0);
    return { segment: slice(this.segmentOf(from), from % segmentRows, ((to - 1) % segmentRows) + 1), added };
  }

  /** How many texts each dictionary holds. */
  known(): Record<TextColumn, number> {
    const counts = {} as Record<TextColumn, number>; // filled in the next line
    for (const name of textColumns) counts[name] = this.dictionaries[name].texts.length;
    return counts;
  }

  /** The device that stands in a row's flags; empty where there is none. */
  deviceOf(flags: number): string {
    return devices[(flags >> deviceShift) & deviceMask] ?? '';
  }

  /** Whether a row's address belonged to a hosting network, by its flags; empty where that could not be told. */
  connectionOf(flags: number): '' | 'hosting' | 'other' {
    if ((flags & flagBits.lookedUp) === 0) return '';
    return (flags & flagBits.hosting) === 0 ? 'other' : 'hosting';
  }

  text(name: TextColumn, row: number): string {
    return element(this.dictionaries[name].texts[element(this.segmentOf(row)[name][row % segmentRows])]);
  }
  at(row: number): number {
    return element(this.segmentOf(row).at[row % segmentRows]);
  }
  click(row: number): string {
    const segment = this.segmentOf(row);
    const i = row % segmentRows;
    return (element(segment.flags[i]) & noClickBit) === 0 ? unpackClick(segment.click, i * 4) : '';
  }

  /** The place of a request in the journal. */
  seq(row: number): number {
    return element(this.segmentOf(row).seq[row % segmentRows]);
  }

  /** A request as the journal had it. */
  record(row: number): HopRecord {
    const segment = this.segmentOf(row);
    const i = row % segmentRows;
    const flags = element(segment.flags[i]);
    const hex = (half: number) =>
      element(segment.visitor[i * 2 + half])
        .toString(16)
        .padStart(8, '0');
    const first = this.text('first', row);
    return {
      seq: element(segment.seq[i]),
      kind: 'hop',
      at: element(segment.at[i]),
      click: this.click(row),
      link: this.text('link', row),
      version: element(segment.version[i]),
      branch: this.text('branch', row),
      source: this.text('source', row),
      status: element(segment.status[i]),
      method: (flags & headBit) === 0 ? 'GET' : 'HEAD',
      host: this.text('host', row),
      ua: this.text('ua', row),
      visitor: hex(0) + hex(1),
      country: this.text('country', row),
      device: element(devices[(flags >> deviceShift) & deviceMask]),
      from: this.text('from', row),
      query: this.text('query', row),
      lang: this.text('lang', row),
      prefetch: (flags & prefetchBit) !== 0,
      test: (flags & testBit) !== 0,
      ...((flags & flagBits.lookedUp) !== 0 && { hosting: (flags & flagBits.hosting) !== 0 }),
      ...(first !== '' && { first }),
    };
  }

  /** Row of a click; -1 where no request has that ID. */
  rowOf(click: string): number {
    if (!isUlid(click)) return -1;
    const found = this.beginningWith(click);
    return found.count > 0 ? found.row(0) : -1;
  }

  /**
   * Row of the click that led to the page on which a request's link stands; -1 where there is none. It is always an older one: a
   * visitor may name what they like.
   */
  rowBefore(row: number): number {
    const place = element(this.segmentOf(row).first[row % segmentRows]);
    const before = place === 0 ? -1 : this.rowOf(element(this.dictionaries.first.texts[place]));
    if (before < 0) return -1;
    const later = this.at(row) - this.at(before);
    return later > 0 || (later === 0 && before < row) ? before : -1;
  }

  /** Rows of the requests from the pages that a click led to. */
  rowsAfter(row: number): number[] {
    const place = this.dictionaries.first.find(this.click(row));
    if (place <= 0) return [];
    const found: number[] = [];
    for (const [n, { first, rows }] of this.segments.entries())
      for (let i = first.indexOf(place); i >= 0 && i < rows; i = first.indexOf(place, i + 1))
        if (this.rowBefore(n * segmentRows + i) === row) found.push(n * segmentRows + i);
    return found;
  }

  /** Rows whose click IDs begin with a text, in the order of the IDs. Letters count alike in both cases. */
  beginningWith(text: string): { readonly count: number; readonly row: (n: number) => number } {
    this.#order();
    const probe = this.#probe;
    if (!packClick(text, probe, 0, 0)) return { count: 0, row: () => -1 };
    packClick(text, probe, 4, 1);
    const first = this.#bound(0, false, 0, this.#sortedRows);
    // Few begin alike, so the end lies near: it is sought in steps that double.
    let step = 1;
    const isWithin = (place: number) =>
      place < this.#sortedRows && this.#compare(element(this.#sorted[place]), probe, 4) <= 0;
    while (isWithin(first + step - 1)) step *= 2;
    const last = this.#bound(4, true, first + (step >>> 1), Math.min(first + step, this.#sortedRows));
    return { count: last - first, row: (n) => element(this.#sorted[first + n]) };
  }

  /** How many IDs lie below the probe, or not above it, where that is between two numbers. */
  #bound(offset: number, orEqual: boolean, from: number, until: number): number {
    let [low, high] = [from, until];
    while (low < high) {
      const middle = (low + high) >>> 1;
      const order = this.#compare(element(this.#sorted[middle]), this.#probe, offset);
      if (order < 0 || (orEqual && order === 0)) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  #compare(row: number, words: Uint32Array, offset: number): number {
    const { click } = this.segmentOf(row);
    const at = (row % segmentRows) * 4;
    for (let i = 0; i < 4; i++) {
      const difference = element(click[at + i]) - element(words[offset + i]);
      if (difference !== 0) return difference;
    }
    return 0;
  }

  #sawTime(row: number, at: number): void {
    const n = Math.floor(row / segmentRows);
    this.newest[n] = Math.max(this.newest[n] ?? -Infinity, at);
    if (at > this.#newest) this.#newest = at;
    else if (at < this.#newest - clockMs) this.isByTime = false;
  }

  /** IDs rise with time, so a new one nearly always belongs at the end; one that belongs far before it waits for the next question. */
  #index(row: number): void {
    if (this.#sortedRows === this.#sorted.length) {
      const larger = new Uint32Array(this.#sorted.length * 2);
      larger.set(this.#sorted);
      this.#sorted = larger;
    }
    const end = this.#sortedRows;
    this.#sorted[end] = row;
    this.#sortedRows += 1;
    if (this.#inOrder < end) return;
    const { click } = this.segmentOf(row);
    const at = (row % segmentRows) * 4;
    let place = end;
    while (place > 0 && this.#compare(element(this.#sorted[place - 1]), click, at) > 0) {
      if (end - place >= mostSteps) return;
      place -= 1;
    }
    this.#sorted.copyWithin(place + 1, place, end);
    this.#sorted[place] = row;
    this.#inOrder = this.#sortedRows;
  }

  /** Puts the rows that came out of order in their places. */
  #order(): void {
    if (this.#inOrder === this.#sortedRows) return;
    const compare = (a: number, b: number) =>
      this.#compare(a, this.segmentOf(b).click, (b % segmentRows) * 4) || a - b;
    const known = this.#sorted.subarray(0, this.#inOrder);
    const late = this.#sorted.slice(this.#inOrder, this.#sortedRows).sort(compare);
    const merged = new Uint32Array(this.#sorted.length);
    let [k, l] = [0, 0];
    for (let place = 0; place < this.#sortedRows; place++) {
      const isKnown =
        l === late.length || (k < known.length && compare(element(known[k]), element(late[l])) < 0);
      merged[place] = isKnown ? element(known[k++]) : element(late[l++]);
    }
    this.#sorted = merged;
    this.#inOrder = this.#sortedRows;
  }
}
