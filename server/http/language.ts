/** Longest language tag that is kept. */
const longest = 60;

/**
 * The language a browser wants most, by the weights of its `Accept-Language` (RFC 9110 §12.5.4): the first of those with the
 * highest; none for `*` and for what is not wanted (`q=0`). At most 60 characters.
 */
export const wantedLanguage = (header: string): string => {
  const comma = header.indexOf(',');
  const first = comma < 0 ? header : header.slice(0, comma);
  // Nearly every browser names first what it wants most, without a weight: that is 1, and none is higher.
  if (!first.includes(';') && first !== '*') return first.slice(0, longest).trim();
  let [wanted, most] = ['', 0];
  for (const item of header.split(',')) {
    const [tag = '', ...parameters] = item.split(';').map((part) => part.trim());
    const weight = parameters.find((part) => /^q=/i.test(part));
    const q = weight === undefined ? 1 : Number(weight.slice(2));
    if (tag !== '' && tag !== '*' && q > most && q <= 1) [wanted, most] = [tag, q];
  }
  return wanted.slice(0, longest);
};
