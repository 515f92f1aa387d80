/** Names of a link's fields as a person would call them. */
const names: Readonly<Record<string, string>> = {
  slug: 'slug',
  aliases: 'older addresses',
  title: 'title',
  destination: 'destination',
  asText: 'pieces sent as text',
  network: 'network',
  program: 'program',
  hop: 'hop',
  marks: 'marks',
  notes: 'notes',
  group: 'group',
  tags: 'tags',
  picture: 'picture',
  starred: 'star',
  branches: 'split',
  weight: 'share of everyone else',
  hours: 'opening hours',
  archived: 'archived',
  domain: 'domain',
};

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

type Fields = Readonly<Record<string, unknown>>;

const changedFields = (before: Fields, after: Fields): string[] =>
  [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (name) => Object.hasOwn(before, name) !== Object.hasOwn(after, name) || !same(before[name], after[name]),
  );

const short = (value: unknown): string => {
  const text = Array.isArray(value) ? value.join(', ') : typeof value === 'string' ? value : '';
  return text.length > 70 ? `${text.slice(0, 69)}…` : text;
};

/** What a change did, one sentence a field: `title from “A” to “B”`. */
export const describeChange = (before: object | null, after: object | null): string[] => {
  if (before === null) return ['made'];
  if (after === null) return ['removed'];
  const [from, to]: [Fields, Fields] = [{ ...before }, { ...after }];
  return changedFields(from, to).map((field) => {
    const name = names[field] ?? field;
    const [a, b] = [short(from[field]), short(to[field])];
    if (a === '' && b === '') return `${name} changed`;
    if (a === '') return `${name} set to ${b}`;
    return b === '' ? `${name} ${a} taken away` : `${name} from ${a} to ${b}`;
  });
};

/**
 * Undoes one change of a record and leaves later ones alone: its fields get the values they had before it. Gives
 * null when the change had made the record, the record itself when it had been removed.
 */
export const undoChange = (
  before: object | null,
  after: object | null,
  current: object | null,
): object | null => {
  if (before === null) return null;
  if (after === null || current === null) return before;
  const [from, to]: [Fields, Fields] = [{ ...before }, { ...after }];
  const result = new Map<string, unknown>(Object.entries(current));
  for (const field of changedFields(from, to)) {
    if (Object.hasOwn(from, field)) result.set(field, from[field]);
    else result.delete(field);
  }
  return Object.fromEntries(result);
};
