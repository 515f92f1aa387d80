/** Things by a key of which nearly each has one only: that one takes no list of its own. */
export class Lists<K, V extends object | number> {
  readonly #map = new Map<K, V | V[]>();

  put(key: K, value: V): void {
    const before = this.#map.get(key);
    if (before === undefined) this.#map.set(key, value);
    else if (Array.isArray(before)) before.push(value);
    else this.#map.set(key, [before, value]);
  }

  /** What a key has, in the order in which it came. */
  get(key: K): readonly V[] {
    const found = this.#map.get(key);
    return found === undefined ? [] : Array.isArray(found) ? found : [found];
  }

  /** The only thing a key has; undefined where it has none, or several. */
  only(key: K): V | undefined {
    const found = this.#map.get(key);
    return Array.isArray(found) ? undefined : found;
  }

  *values(): Generator<readonly V[]> {
    for (const found of this.#map.values()) yield Array.isArray(found) ? found : [found];
  }
}
