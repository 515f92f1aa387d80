import type { ScriptTable } from '#core/articles';
import { keywordFlags } from '#core/articles';
import { element } from '#core/catalogue';
import type { Keyword, KeywordPlace, Linked, LinkedWords } from '#core/keywords';
import {
  filledStretches,
  inflectedLanguage,
  isDisclosing,
  KeywordPlaces,
  makeKeywordFinder,
} from '#core/keywords';
import type { PageLinks } from './links.ts';
import type { Settings } from './settings.ts';
import type { Group, Texts } from './texts.ts';
import { runWith } from './texts.ts';

/** Links the keywords of a page. */
export class PageWords {
  readonly #table: ScriptTable;
  readonly #links: PageLinks;
  readonly #texts: Texts;
  readonly #headings: boolean;
  readonly #places: KeywordPlaces<Group>;

  constructor(table: ScriptTable, settings: Settings, links: PageLinks, texts: Texts) {
    this.#table = table;
    this.#links = links;
    this.#texts = texts;
    this.#headings = settings.headings;
    const keywords: Keyword[] = table.keywords.map(([text, link, flags], counter) => ({
      text,
      link: element(table.links[link])[0],
      forms: (flags & keywordFlags.forms) > 0,
      exact: (flags & keywordFlags.exact) > 0,
      counter,
    }));
    const finder = makeKeywordFinder(keywords, table.skip, inflectedLanguage(document.documentElement.lang));
    this.#places = new KeywordPlaces(finder, keywords, settings.limits);
  }

  /** Gives a link what it should have, and counts it where it is one of ours. */
  count(anchor: HTMLAnchorElement): void {
    if (this.#links.linkOf(anchor)) return;
    const link = this.#links.tend(anchor);
    if (link) this.#places.countLinked(link[0], anchor.text.replace(/\s+/g, ' ').trim());
  }

  /** Reads a group of words. */
  read(group: Group): void {
    const linked = new Map<Element, LinkedWords>();
    for (const { start, anchor } of group.runs) {
      const link = anchor && this.#links.linkOf(anchor);
      if (link && !linked.has(anchor)) linked.set(anchor, { start, link: link[0] });
    }
    this.#places.read(group.text, group, [...linked.values()]);
  }

  /** Links the next place where a keyword was read, if it may be; false once there are no more. */
  step(): boolean {
    return this.#places.step((keyword, place) => this.#link(keyword, place));
  }

  #link(keyword: Keyword, { text: group, start, end }: KeywordPlace<Group>): Linked {
    const run = runWith(group, start, end);
    const node = run?.node;
    if (!node || (run.isHeading && !this.#headings)) return 'not here';
    if (filledStretches(group.text).some(([from, to]) => start < to && end > from)) return 'not here';
    const [from, words] = [start - run.start, group.text.slice(start, end)];
    // What says why the links are there has none itself.
    if (isDisclosing(group.text)) return 'not here';
    // The page may have changed since it was read.
    if (!node.isConnected || node.data.slice(from, from + words.length) !== words) return 'not here';
    const linked = node.splitText(from);
    run.node = linked.splitText(words.length);
    for (const piece of [linked, run.node]) this.#texts.pass(piece);
    run.start = end;
    this.#links.around(linked, element(this.#table.keywords[keyword.counter])[1]);
    return 'linked';
  }
}
