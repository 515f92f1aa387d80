import type { LinesOfSort } from '#core/visits';

/** Most texts that are told apart; those that come later are only counted. */
const mostTexts = 5000;
const mostTold = 10;

/** A text that holds nothing but itself: a piece of a longer one keeps all of that in memory. */
export const ownCopy = (text: string): string => Buffer.from(text, 'utf8').toString('utf8');

/** Counts lines by what they asked for, in bounded memory. */
export class Tally {
  #count = 0;
  readonly #byText = new Map<string, number>();

  add(text: string): void {
    this.#count += 1;
    const before = this.#byText.get(text);
    if (before !== undefined) this.#byText.set(text, before + 1);
    else if (this.#byText.size < mostTexts) this.#byText.set(ownCopy(text), 1);
  }

  /** How many there were, and the ten most frequent. */
  get told(): LinesOfSort {
    const most = [...this.#byText].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).slice(0, mostTold);
    return { count: this.#count, most };
  }
}
