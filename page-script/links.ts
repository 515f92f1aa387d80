import type { ScriptLink, ScriptTable } from '#core/articles';
import { element } from '#core/catalogue';
import { addressKey, shortKey } from '#core/link-parts';
import type { Settings } from './settings.ts';

/** Editors, forms and code, and what somebody said to leave alone: nothing in them is touched. */
export const leftAlone =
  'form,pre,code,kbd,samp,button,[contenteditable]:not([contenteditable=false]),[role=textbox],[data-fernhop=leave]';

/** The links of a page: which of them are ours, and what they are to be. */
export class PageLinks {
  readonly #table: ScriptTable;
  readonly #settings: Settings;
  readonly #leave: string;
  readonly #known = new WeakMap<Element, ScriptLink>();
  /** IDs of the links of ours that stood on the page. */
  readonly seen = new Set<string>();

  constructor(table: ScriptTable, settings: Settings) {
    this.#table = table;
    this.#settings = settings;
    this.#leave = settings.without === '' ? leftAlone : `${leftAlone},${settings.without}`;
  }

  /** True for an element that is left alone, or stands in one. */
  isLeft(element: Element): boolean {
    return element.closest(this.#leave) !== null;
  }

  /** True for an address on a link domain. */
  isOwn(link: HTMLAnchorElement): boolean {
    return this.#table.hosts.includes(link.hostname);
  }

  /** The link of ours that an element is by now. */
  linkOf(element: Element): ScriptLink | undefined {
    return this.#known.get(element);
  }

  /** The link of ours that an address is, or becomes. */
  #find(link: HTMLAnchorElement): ScriptLink | undefined {
    const { addresses, dropped, links } = this.#table;
    const address = this.isOwn(link)
      ? `${link.origin}${link.pathname.replace(/(?:~|%7e).*/i, '').toLowerCase()}`
      : link.href;
    const key = addressKey(address, dropped);
    const at = key === '' ? undefined : addresses[shortKey(key)];
    return at === undefined ? undefined : links[at];
  }

  /** The whole address of a link of ours, with the source of this page. */
  #address([, address, , slot]: ScriptLink): string {
    const { source } = this.#settings;
    const whole = address.startsWith('/') ? this.#table.origin + address : address;
    return slot === undefined && source !== '' ? `${whole}~${source}` : whole;
  }

  /** Looks at a link that stands on the page, and gives it the address and marks it should have. */
  tend(link: HTMLAnchorElement): ScriptLink | undefined {
    if (this.isLeft(link)) return undefined;
    const found = this.#find(link);
    if (!found) return undefined;
    const { does, source } = this.#settings;
    const addresses = does('addresses');
    const isCounted = found[3] !== undefined;
    // One that may not be cloaked stands as it is, one that may by its short address.
    const isAsItShouldBe = this.isOwn(link) !== isCounted;
    if (!isAsItShouldBe && !addresses) return undefined;
    const lacksSource = source !== '' && !isCounted && !/~|%7e|[?&]from=/i.test(link.href);
    if (!isAsItShouldBe || (addresses && lacksSource)) link.href = this.#address(found);
    if (does('marks')) this.#mark(link, found);
    this.#know(link, found);
    return found;
  }

  #know(link: Element, found: ScriptLink): void {
    this.#known.set(link, found);
    this.seen.add(found[0]);
  }

  #mark(link: HTMLAnchorElement, [, , marks, slot]: ScriptLink): void {
    const [rel, newTab, title] = element(this.#table.marks[marks]);
    for (const value of rel.split(' ')) if (value !== '') link.relList.add(value);
    if (newTab === 1 && !link.target) link.target = '_blank';
    if (title !== '' && !link.title) link.title = title;
    // Our hop may learn the page; a merchant learns what the browser tells of itself.
    if (slot === undefined && !link.referrerPolicy) link.referrerPolicy = 'no-referrer-when-downgrade';
  }

  /** Makes a link of a piece of text. */
  around(words: Text, at: number): void {
    const found = element(this.#table.links[at]);
    const link = document.createElement('a');
    link.href = this.#address(found);
    this.#mark(link, found);
    words.replaceWith(link);
    link.append(words);
    this.#know(link, found);
  }
}
