import type { Conversion } from '#core/conversions';
import { isClickId } from '#core/hop';

/** How a conversion found its click. */
export type Match =
  | { readonly level: 'exact'; readonly click: string; readonly because: string }
  | { readonly level: 'none'; readonly because: string };

/**
 * Matches a conversion to the click whose ID it carries, letter for letter.
 *
 * @param knows tells whether the journal holds a click with this ID
 */
export const matchClick = (
  conversion: Pick<Conversion, 'click'>,
  knows: (click: string) => boolean,
): Match => {
  const { click } = conversion;
  if (click === '') return { level: 'none', because: 'It came without a click ID.' };
  if (knows(click)) return { level: 'exact', click, because: 'The click ID is the same, letter for letter.' };
  return {
    level: 'none',
    because: isClickId(click)
      ? 'The ID has the form of ours, but no such click is in the journal.'
      : 'The ID does not have the form of ours.',
  };
};
