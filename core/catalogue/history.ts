import { mergeRecord } from './merge.ts';

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
  coupons: 'coupon codes',
  picture: 'picture',
  starred: 'star',
  branches: 'split',
  weight: 'share of everyone else',
  movesWeights: 'weights that move by themselves',
  hours: 'opening hours',
  archived: 'archived',
  domain: 'domain',
};

/** A field as a person would call it. */
export const fieldName = (field: string): string => names[field] ?? field;

/**
 * Undoes one change of a record and leaves later ones alone: its fields get the values they had before it, but for those that
 * were changed again since.
 *
 * @returns the record as it becomes, null when it is removed, and the fields that stay since somebody changed them later; an
 *   empty name stands for the record itself, as when it was removed since
 */
export const undoChange = (
  before: object | null,
  after: object | null,
  current: object | null,
): { readonly value: object | null; readonly stays: readonly string[] } => {
  const { value, conflicts } = mergeRecord(after, before, current, () => 'theirs');
  return { value, stays: [...new Set(conflicts.map(({ path: [field = ''] }) => fieldName(field)))] };
};
