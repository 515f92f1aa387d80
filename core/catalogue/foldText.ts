/** Letters that no Unicode decomposition turns into ASCII. */
const letters: Readonly<Record<string, string>> = {
  ß: 'ss',
  æ: 'ae',
  ø: 'o',
  œ: 'oe',
  đ: 'd',
  ð: 'd',
  þ: 'th',
  ł: 'l',
  ı: 'i',
};

/** A text as it is searched in and made a slug of: lower case, without accents, `ß` as `ss`. */
export const foldText = (text: string): string => {
  const lower = text.toLowerCase();
  // Most texts have nothing to fold.
  if (!/[^\x00-\x7f]/.test(lower)) return lower;
  return lower
    .replace(/[ßæøœđðþłı]/g, (letter) => letters[letter] ?? '')
    .normalize('NFKD')
    .replace(/\p{Mark}/gu, '');
};
