/**
 * Gives what has to be there.
 *
 * @param what names it in the error
 * @throws Error where it is not: a bug, never a person's mistake
 */
export const present = <T>(value: T | undefined, what: string): T => {
  if (value === undefined) throw new Error(`There is no ${what}.`);
  return value;
};

/**
 * Gives an element of a list that is known to be long enough. Cheap enough for loops over millions.
 *
 * @throws RangeError beyond its ends: a bug
 */
export const element = <T>(value: T | undefined): T => {
  if (value === undefined) throw new RangeError('This lies beyond the ends of its list.');
  return value;
};

/** Adds to a number in a map; what is not there yet is 0. */
export const addTo = <K>(sums: Map<K, number>, key: K, by = 1): void => {
  sums.set(key, (sums.get(key) ?? 0) + by);
};

/** Puts something into a list in a map; what is not there yet is an empty one. */
export const pushTo = <K, V>(lists: Map<K, V[]>, key: K, value: V): void => {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
};
