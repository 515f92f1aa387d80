import { element } from '#core/catalogue';
import { fromLog } from '#core/hop';
import type { VisitColumns } from '#core/visits';
import { segmentRows } from '#core/visits';

/** A log has whole seconds, and is written when a request ends: by so much the two moments may lie apart, in milliseconds. */
const apartMs = 2000;

/**
 * Tells requests that this server answered itself, as where a web server in front of it wrote them down too: by link, user agent and
 * moment. Each of its own is found once.
 */
export class AnsweredHere {
  readonly #columns: VisitColumns;
  /** Rows of its own requests, by their time. */
  readonly #rows: Uint32Array;
  readonly #found: Uint8Array;

  constructor(columns: VisitColumns) {
    this.#columns = columns;
    const log = columns.dictionaries.branch.find(fromLog);
    const rows = new Uint32Array(columns.rows);
    let count = 0;
    for (const [n, { rows: filled, branch }] of columns.segments.entries())
      for (let i = 0; i < filled; i++) if (branch[i] !== log) rows[count++] = n * segmentRows + i;
    this.#rows = rows.slice(0, count).sort((a, b) => columns.at(a) - columns.at(b));
    this.#found = new Uint8Array(count);
  }

  /** True once for each of them; `at` is milliseconds since 1970 UTC. */
  take(at: number, link: string, ua: string): boolean {
    const { dictionaries } = this.#columns;
    const [linkPlace, uaPlace] = [dictionaries.link.find(link), dictionaries.ua.find(ua)];
    if (linkPlace < 0 || uaPlace < 0) return false;
    for (let place = this.#firstSince(at - apartMs); place < this.#rows.length; place++) {
      const row = element(this.#rows[place]);
      const segment = this.#columns.segmentOf(row);
      const i = row % segmentRows;
      if (element(segment.at[i]) > at + apartMs) return false;
      if (this.#found[place] === 1 || segment.link[i] !== linkPlace || segment.ua[i] !== uaPlace) continue;
      this.#found[place] = 1;
      return true;
    }
    return false;
  }

  #firstSince(at: number): number {
    let [low, high] = [0, this.#rows.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.#columns.at(element(this.#rows[middle])) < at) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}
