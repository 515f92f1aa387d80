import type { Link, Restriction } from '#core/catalogue';

/** A linked text longer than this breaks the sentence it stands in. */
export const longestAnchor = 60;

const hasName = (text: string, name: string): boolean => text.toLowerCase().includes(name.toLowerCase());

/** A linked text with the name that its merchant wants to be read in it; empty where the merchant wants none. */
export const withMerchant = (text: string, name: string): string =>
  name === '' || hasName(text, name) ? text : `${text}, ${name}`;

/**
 * The words a link is linked by until somebody types others: its own, else its title; with the name that its merchant wants to
 * be read in them, where they do not have it.
 *
 * @param name empty where the merchant wants none
 */
export const anchorOf = (link: Pick<Link, 'anchor' | 'title'>, name: string): string =>
  withMerchant(link.anchor ?? link.title, name);

/** What a linked text is in the way of: it cannot be placed so, or it reads badly. */
export interface AnchorFault {
  /** Nothing is copied until it is mended. */
  readonly refused: boolean;
  readonly says: string;
}

/**
 * What is wrong with a linked text.
 *
 * @param name what the merchant wants to be read in it; empty where it wants nothing
 */
export const anchorFault = (
  text: string,
  name: string,
  restrictions: readonly Restriction[],
): AnchorFault | undefined => {
  const trimmed = text.trim();
  if (trimmed === '') return { refused: true, says: 'A link without words cannot be pressed. Type some.' };
  const asked = restrictions.find(({ what }) => what === 'name');
  if (asked && name !== '' && !hasName(trimmed, name)) return { refused: true, says: asked.because };
  if ([...trimmed].length > longestAnchor)
    return {
      refused: false,
      says: `${[...trimmed].length} letters are long for a link in a sentence. A shorter text is kept for this link.`,
    };
  return undefined;
};
