/**
 * Which values people wrote over which others, knowingly. A value that nobody wrote over has to be somewhere; one that
 * somebody did may be gone.
 */
export class Tokens {
  /** For each value, those that its writer had before the eyes and replaced. */
  readonly #replaced = new Map<string, Set<string>>();
  /** Those that a person let go when asked. */
  readonly #letGo = new Set<string>();
  readonly #saved = new Set<string>();
  #made = 0;

  /** A value nobody wrote before. */
  make(): string {
    this.#made += 1;
    return `t${this.#made}`;
  }

  /** A person was told that a value is saved. */
  save(value: string): void {
    this.#saved.add(value);
  }

  /** A person put a value in the place of another that stood there before the eyes. */
  replace(value: string, other: string): void {
    if (other === value) return;
    const replaced = this.#replaced.get(value) ?? new Set();
    replaced.add(other);
    this.#replaced.set(value, replaced);
  }

  letGo(value: string): void {
    this.#letGo.add(value);
  }

  /** The values that were said to be saved, that nobody knowingly replaced, and that are nowhere. */
  missing(anywhere: Iterable<string>): string[] {
    const covered = new Set<string>();
    const open = [...anywhere, ...this.#letGo];
    for (let value = open.pop(); value !== undefined; value = open.pop()) {
      if (covered.has(value)) continue;
      covered.add(value);
      open.push(...(this.#replaced.get(value) ?? []));
    }
    return [...this.#saved].filter((value) => !covered.has(value));
  }
}
