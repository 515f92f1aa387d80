import { createHash } from 'node:crypto';

/** Most pages that are remembered; those told of longest ago are forgotten first. */
const most = 5000;

/** Which links stand on which page, as readers' browsers told last: what is the same again need not be written down again. */
export class PageLinks {
  readonly #pages = new Map<string, string>();

  /** Takes what was told of a page; true where it is news. */
  isNews(page: string, links: readonly string[]): boolean {
    // Whoever tells of many pages is not to fill the memory with their links.
    const told = createHash('sha256').update(links.toSorted().join(' ')).digest('base64url');
    if (this.#pages.get(page) === told) return false;
    this.#pages.delete(page);
    this.#pages.set(page, told);
    const [oldest] = this.#pages.keys();
    if (this.#pages.size > most && oldest !== undefined) this.#pages.delete(oldest);
    return true;
  }
}
