import { element } from '#core/catalogue';
import type { Segment, VisitColumns } from '#core/visits';

/** A column of numbers that say which pair of two other columns' numbers stands in a row. */
export interface Pairs {
  readonly column: (segment: Segment) => ArrayLike<number>;
  /** Both numbers of each pair. */
  readonly firsts: readonly number[];
  readonly seconds: readonly number[];
}

/** More numbers than a column of texts can have different ones. */
const range = 2 ** 26;

interface Made extends Pairs {
  readonly places: Map<number, number>;
  readonly firsts: number[];
  readonly seconds: number[];
  readonly segments: WeakMap<Segment, { rows: number; places: Uint32Array }>;
}

const known = new WeakMap<VisitColumns, Map<string, Made>>();

const newPairs = (): Made => {
  const segments: Made['segments'] = new WeakMap();
  return {
    column: (segment) => segments.get(segment)?.places ?? [],
    ...{ firsts: [], seconds: [], places: new Map(), segments },
  };
};

/**
 * The pairs of two columns of all requests there are; those that were seen before are not looked at again.
 *
 * @param name of both, by which it is known again
 */
export const pairsOf = (
  columns: VisitColumns,
  name: string,
  first: Pairs['column'],
  second: Pairs['column'],
): Pairs => {
  let all = known.get(columns);
  if (!all) known.set(columns, (all = new Map()));
  let made = all.get(name);
  if (!made) all.set(name, (made = newPairs()));
  const { places, firsts, seconds, segments } = made;
  for (const segment of columns.segments) {
    let read = segments.get(segment);
    if (read?.rows === segment.rows) continue;
    if (!read || read.places.length < segment.seq.length)
      segments.set(segment, (read = { rows: 0, places: new Uint32Array(segment.seq.length) }));
    const [a, b] = [first(segment), second(segment)];
    for (let i = read.rows; i < segment.rows; i++) {
      const [one, other] = [element(a[i]), element(b[i])];
      const pair = one * range + other;
      let place = places.get(pair);
      if (place === undefined) {
        places.set(pair, (place = places.size));
        firsts.push(one);
        seconds.push(other);
      }
      read.places[i] = place;
    }
    read.rows = segment.rows;
  }
  return made;
};
