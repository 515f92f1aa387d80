/** Most clicks that are remembered; the oldest are forgotten first. */
const most = 20_000;

/**
 * The clicks that were answered by a page of ours, by link: only such a page can tell how long somebody stayed. In memory
 * and bounded.
 */
export class PageClicks {
  readonly #links = new Map<string, string>();

  add(click: string, link: string): void {
    if (this.#links.size >= most) {
      const [oldest] = this.#links.keys();
      if (oldest !== undefined) this.#links.delete(oldest);
    }
    this.#links.set(click, link);
  }

  /** True for a click of this link that is remembered. */
  has(click: string, link: string): boolean {
    return this.#links.get(click) === link;
  }
}
