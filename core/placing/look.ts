/** How placed links and buttons look where a person wants them to look like their own; colours as `#2c6a4c`. */
export interface PlacingLook {
  /** Of a link in a text. */
  readonly link: string;
  /** Behind and of the words of a button. */
  readonly ground: string;
  readonly ink: string;
}

export const usualLook: PlacingLook = { link: '#2c6a4c', ground: '#2c6a4c', ink: '#ffffff' };

/** How bright a colour is, from 0 to 1 (WCAG 2.2, relative luminance). */
const luminance = (colour: string): number => {
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => {
    const part = parseInt(colour.slice(at, at + 2), 16) / 255;
    return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
};

/**
 * The contrast of two colours, from 1 to 21 (WCAG 2.2, contrast ratio). Text is read by nearly everyone from 4.5 on
 * (success criterion 1.4.3).
 *
 * @param one as `#rrggbb`
 */
export const contrast = (one: string, other: string): number => {
  const [a, b] = [luminance(one), luminance(other)];
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
};

/** Least contrast of words that are to be read. */
export const readableContrast = 4.5;

/** What is said of two colours of which one is read on the other; nothing where it is read well. */
export const contrastProblem = (ink: string, ground: string, words: string): string | undefined => {
  const ratio = contrast(ink, ground);
  return ratio < readableContrast
    ? `${words} has a contrast of ${(Math.floor(ratio * 10) / 10).toFixed(1)} : 1. It is read from ${readableContrast} on.`
    : undefined;
};

/** What in a look cannot be read well, as sentences. */
export const lookProblems = (look: PlacingLook): string[] =>
  [
    contrastProblem(look.ink, look.ground, 'The button'),
    contrastProblem(look.link, '#ffffff', 'The link on white'),
  ].filter((problem) => problem !== undefined);

/** Inline styles, in full: a page's own rules for links change nothing of a button. */
export const linkStyle = ({ link }: PlacingLook): string => `color:${link};text-decoration:underline`;
export const buttonStyle = ({ ground, ink }: PlacingLook): string =>
  `display:inline-block;padding:10px 20px;border-radius:10px 3px;background:${ground};color:${ink};font-weight:600;line-height:1.3;text-decoration:none`;
