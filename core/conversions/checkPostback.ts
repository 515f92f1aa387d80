import type { Network, PostbackField } from '#core/catalogue';
import { isUlid, isUlidBeginning } from '#core/catalogue';
import { askedFields } from './placeholderStyles.ts';
import type { ReadPostback } from './postback.ts';

/** What one value of a postback turned out to be. */
export interface PostbackCheck {
  readonly field: PostbackField;
  readonly state: 'good' | 'bad' | 'absent';
  /** A plain sentence. */
  readonly words: string;
  /** The network's word for a state that nobody has taught yet. */
  readonly unknownWord?: string;
  /** How many characters of a click ID came, where it was cut. */
  readonly kept?: number;
}

/** Fewest characters by which a click ID that was cut short is known. */
const fewestClickLetters = 12;

/**
 * Holds a postback against what the network was asked for: each value that came and can be read, came and cannot, or did not
 * come though its placeholder stands in the address.
 */
export const checkPostback = (
  { raw, problems, event }: ReadPostback,
  { postback }: Pick<Network, 'postback'>,
): PostbackCheck[] => {
  const fields = new Set<PostbackField>(['click', ...askedFields(postback)]);
  for (const field of Object.keys(raw) as PostbackField[]) fields.add(field); // the keys of raw are our fields
  return [...fields].map((field): PostbackCheck => {
    const value = raw[field];
    const problem = problems.find(({ path }) => path === field);
    if (value === undefined) return { field, state: 'absent', words: problem?.message ?? 'It did not come.' };
    if (problem) {
      const isWord = field === 'status' && !/^[{[%#<$]/.test(value);
      return {
        field,
        state: 'bad',
        words: problem.message,
        ...(isWord && { unknownWord: value.toLowerCase() }),
      };
    }
    if (field === 'click' && !isUlid(value.trim())) {
      const cut = value.trim();
      return cut.length >= fewestClickLetters && isUlidBeginning(cut)
        ? {
            field,
            state: 'good',
            words: `The first ${cut.length} of 26 characters came: it keeps no more.`,
            kept: cut.length,
          }
        : { field, state: 'bad', words: `${cut} is not one of our click IDs.` };
    }
    if (field === 'status' && value !== event.status)
      return { field, state: 'good', words: `${value} means ${event.status}.` };
    return { field, state: 'good', words: value };
  });
};
