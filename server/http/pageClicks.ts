/** Most clicks that are remembered; the oldest are forgotten first. */
const most = 20_000;

/** What is known of a click that a page of ours answered. */
interface PageClick {
  readonly link: string;
  readonly source: string;
}

/**
 * The clicks that were answered by a page of ours: only such a page can tell how long somebody stayed. In memory and bounded.
 */
export class PageClicks {
  readonly #links = new Map<string, PageClick>();

  add(click: string, of: PageClick): void {
    if (this.#links.size >= most) {
      const [oldest] = this.#links.keys();
      if (oldest !== undefined) this.#links.delete(oldest);
    }
    this.#links.set(click, of);
  }

  /** A click of this link that is remembered. */
  of(click: string, link: string): PageClick | undefined {
    const found = this.#links.get(click);
    return found?.link === link ? found : undefined;
  }
}
