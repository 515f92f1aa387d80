import { dequal } from 'dequal';

/** What is set of a record's choices. */
type Own<T> = { readonly [K in keyof T]?: T[K] | undefined };

/**
 * What of a record's choices is its own after an edit: those that were its own before, and those the person changed. What was
 * left alone goes on following the defaults, also where it was shown.
 *
 * @param draft every choice as the form has it
 * @param opened the same as the form was opened
 * @param own what was its own then
 */
export const ownAfterEdit = <T extends object>(draft: T, opened: T, own: Own<T>): Partial<T> => {
  const result: Partial<T> = {};
  for (const key in draft)
    if (own[key] !== undefined || !dequal(draft[key], opened[key])) result[key] = draft[key];
  return result;
};

/** The same without one of its own choices, which follows the defaults again. */
export const withoutChoice = <T extends object>(own: T, key: keyof T): T => {
  const { [key]: _, ...rest } = own;
  return rest as T; // what is own is always partial
};
