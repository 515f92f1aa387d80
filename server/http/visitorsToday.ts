const most = 500_000;

/** Remembers who was on a domain today (UTC), as long as visitors are known at all; in memory, and bounded. */
export class VisitorsToday {
  #day = -1;
  readonly #visitors = new Set<string>();

  /**
   * True when the visitor was there before on the same day; remembers them unless told not to, as for a browser that
   * only looks ahead. `at` is milliseconds since 1970 UTC.
   */
  wasHere(domain: string, visitor: string, at: number, remember = true): boolean {
    const day = Math.floor(at / 86_400_000);
    if (day !== this.#day || this.#visitors.size >= most) {
      this.#day = day;
      this.#visitors.clear();
    }
    const key = `${domain} ${visitor}`;
    const known = this.#visitors.has(key);
    if (remember) this.#visitors.add(key);
    return known;
  }
}
