/** Lines that are remembered at once, twice. */
const most = 50_000;

/**
 * Counts how often the same was seen before, over the last lines: a log has its requests nearly in the order of their time, so the same
 * second is soon over. In bounded memory.
 */
export class Occurrences {
  #newer = new Map<string, number>();
  #older = new Map<string, number>();

  /** How often it was seen before this time. */
  see(text: string): number {
    const before = this.#newer.get(text) ?? this.#older.get(text) ?? 0;
    this.#newer.set(text, before + 1);
    if (this.#newer.size >= most) {
      this.#older = this.#newer;
      this.#newer = new Map();
    }
    return before;
  }

  forget(): void {
    this.#newer.clear();
    this.#older.clear();
  }
}
