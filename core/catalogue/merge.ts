import { dequal } from 'dequal';

/** Two versions of a record that both changed the same thing, and differently. */
export interface FieldConflict {
  /** The way to it: a field, then the fields in it. Empty where the record itself is removed in one of them. */
  readonly path: readonly string[];
  readonly mine: unknown;
  readonly theirs: unknown;
}

export type Whose = 'mine' | 'theirs';

export interface Merged {
  /** What both made of it; where they conflict, as chosen. Null when the record is removed. */
  readonly value: object | null;
  /** Where a person has to choose; empty where nobody has to. */
  readonly conflicts: readonly FieldConflict[];
}

type Fields = Readonly<Record<string, unknown>>;

const isFields = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const isTexts = (value: unknown): value is readonly string[] =>
  Array.isArray(value) && value.every((item) => typeof item === 'string');

/** Things with a name and no ID of their own, such as filters that were kept. */
const isNamed = (value: unknown): value is readonly { readonly name: string }[] =>
  Array.isArray(value) &&
  value.every((item) => isFields(item) && typeof item['name'] === 'string' && !('id' in item)) &&
  new Set(value.map((item: { name: string }) => item.name)).size === value.length;

/** A list of texts has no order that matters here: what either added is in it, what either took away is not. */
const mergeTexts = (
  base: readonly string[],
  mine: readonly string[],
  theirs: readonly string[],
): string[] => {
  const left = theirs.filter((text) => mine.includes(text) || !base.includes(text));
  const added = mine.filter((text) => !base.includes(text) && !theirs.includes(text));
  return [...new Set([...left, ...added])];
};

const byName = (list: readonly { readonly name: string }[]): Fields =>
  Object.fromEntries(list.map((item) => [item.name, item]));

/** When something was done, what the journal was sealed with then, and how a table is sorted. */
const noOpinions: ReadonlySet<string> = new Set(['at', 'seal', 'sort']);

/**
 * Merges two versions of a record by field, down into fields of fields, against the version that both began from. A field
 * that one of them changed is as that one has it; where both did, and differently, a person chooses. Lists of texts are
 * merged text by text; any other list is one value; of two moments (`at`),
 * seals or ways to sort a table theirs stands.
 *
 * @param base what both began from: null where there was no record, undefined where that is not known any more; then every
 *   difference is a conflict
 * @param choose settles a conflict; mine where left out
 */
export const mergeRecord = (
  base: object | null | undefined,
  mine: object | null,
  theirs: object | null,
  choose: (conflict: FieldConflict) => Whose = () => 'mine',
): Merged => {
  const conflicts: FieldConflict[] = [];
  const both = (conflict: FieldConflict): unknown => {
    conflicts.push(conflict);
    return conflict[choose(conflict)];
  };

  const mergeFields = (from: Fields, a: Fields, b: Fields, path: readonly string[]): Fields => {
    const merged: [string, unknown][] = [];
    for (const name of new Set([...Object.keys(b), ...Object.keys(a)])) {
      const value = mergeValue(from[name], a[name], b[name], [...path, name]);
      if (value !== undefined) merged.push([name, value]);
    }
    return Object.fromEntries(merged);
  };
  const mergeValue = (from: unknown, a: unknown, b: unknown, path: readonly string[]): unknown => {
    if (dequal(a, b) || dequal(from, b)) return a;
    if (dequal(from, a)) return b;
    // These are no opinions that anybody would defend: the first one's stands.
    if (noOpinions.has(path.at(-1) ?? '')) return b;
    if (isFields(a) && isFields(b)) return mergeFields(isFields(from) ? from : {}, a, b, path);
    if (isTexts(a) && isTexts(b)) return mergeTexts(isTexts(from) ? from : [], a, b);
    if (isNamed(a) && isNamed(b))
      return Object.values(mergeFields(isNamed(from) ? byName(from) : {}, byName(a), byName(b), path));
    return both({ path, mine: a, theirs: b });
  };

  if (dequal(mine, theirs) || (base !== undefined && dequal(base, theirs))) return { value: mine, conflicts };
  if (base !== undefined && dequal(base, mine)) return { value: theirs, conflicts };
  if (mine === null || theirs === null) {
    const conflict = { path: [], mine, theirs };
    return { value: choose(conflict) === 'mine' ? mine : theirs, conflicts: [conflict] };
  }
  const value = mergeFields({ ...base }, { ...mine }, { ...theirs }, []);
  return { value, conflicts };
};
