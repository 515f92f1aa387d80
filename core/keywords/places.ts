import type { Keyword, KeywordFinder } from './finder.ts';

/** How often keywords may be linked. */
export interface KeywordLimits {
  readonly perKeyword: number;
  /** Links that stand there count too. */
  readonly perLink: number;
  readonly perArticle: number;
  /** Words between two links that lead to the same. */
  readonly apart: number;
}

/** A link that stands in a text, and where its words begin. */
export interface LinkedWords {
  readonly start: number;
  /** ID of the link. */
  readonly link: string;
}

/** A keyword where it is read. */
export interface KeywordPlace<Text> {
  readonly text: Text;
  readonly start: number;
  readonly end: number;
  /** Keywords that are read there, by their place in the list; more than one where links have the same words. */
  readonly keywords: readonly number[];
}

/** What came of a keyword at a place: it was linked; it may not be, but another of the same words might; or nothing may. */
export type Linked = 'linked' | 'not this' | 'not here';

/**
 * Reads the texts of an article in their order, and says where keywords may be linked in them: at the first places that keep the
 * limits. What is linked is counted; texts that are read later go on with the same counts.
 */
export class KeywordPlaces<Text> {
  /** How many words were read. */
  words = 0;
  readonly #finder: KeywordFinder;
  readonly #keywords: readonly Keyword[];
  readonly #limits: KeywordLimits;
  /** By link: how often it is linked, and after how many words. */
  readonly #links = new Map<string, { count: number; readonly at: number[] }>();
  readonly #perKeyword: number[] = [];
  #made = 0;
  /** Where keywords are read. */
  readonly #places: (KeywordPlace<Text> & { readonly wordsBefore: number })[] = [];
  /** The next place to be looked at. */
  #next = 0;

  constructor(finder: KeywordFinder, keywords: readonly Keyword[], limits: KeywordLimits) {
    this.#finder = finder;
    this.#keywords = keywords;
    this.#limits = limits;
  }

  #ofLink(link: string) {
    let found = this.#links.get(link);
    if (!found) this.#links.set(link, (found = { count: 0, at: [] }));
    return found;
  }

  #countKeyword({ counter }: Keyword): void {
    this.#perKeyword[counter] = (this.#perKeyword[counter] ?? 0) + 1;
    this.#made += 1;
  }

  /** Counts a link that stands there, and its words as a keyword of it where they are one: it might have been made by that. */
  countLinked(link: string, words: string): void {
    this.#ofLink(link).count += 1;
    const same = this.#finder.whole(words).find((each) => this.#keywords[each]?.link === link);
    const keyword = same === undefined ? undefined : this.#keywords[same];
    if (keyword) this.#countKeyword(keyword);
  }

  /** Reads a text: where keywords are, and after how many words each link that stands in it begins. */
  read(letters: string, text: Text, links: readonly LinkedWords[]): void {
    const before = this.words;
    /** The next link whose beginning was not passed yet. */
    let next = 0;
    const passLinks = (until: number, wordsBefore: number) => {
      for (let link = links[next]; link && link.start <= until; link = links[++next])
        this.#ofLink(link.link).at.push(before + wordsBefore);
    };
    this.words += this.#finder.scan(
      letters,
      (start, end, found, wordsBefore) => {
        this.#places.push({ text, start, end, keywords: found, wordsBefore: before + wordsBefore });
      },
      links.length > 0 ? passLinks : undefined,
    );
    passLinks(Infinity, this.words - before);
  }

  /**
   * Looks at the next place where keywords were read.
   *
   * @param link links it, where it may
   * @returns false once there are no more, or as many links were made as may be
   */
  step(link: (keyword: Keyword, place: KeywordPlace<Text>) => Linked): boolean {
    const place = this.#places[this.#next];
    const { perKeyword, perLink, perArticle, apart } = this.#limits;
    if (!place || this.#made >= perArticle) return false;
    this.#next += 1;
    const at = place.wordsBefore;
    for (const index of place.keywords) {
      const keyword = this.#keywords[index];
      if (!keyword || (this.#perKeyword[keyword.counter] ?? 0) >= perKeyword) continue;
      const linked = this.#ofLink(keyword.link);
      if (linked.count >= perLink || linked.at.some((other) => Math.abs(other - at) < apart)) continue;
      const came = link(keyword, place);
      if (came === 'not this') continue;
      if (came === 'linked') {
        linked.count += 1;
        linked.at.push(at);
        this.#countKeyword(keyword);
      }
      break;
    }
    return true;
  }
}
