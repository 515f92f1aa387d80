/**
 * Percent-decodes a raw name or value of a query or form, `+` as a space. One with broken encoding is given back as it is,
 * since a wrong guess would be worse than the raw text.
 */
export const decodeQueryText = (raw: string): string => {
  try {
    return decodeURIComponent(raw.replaceAll('+', ' '));
  } catch {
    return raw;
  }
};

/** The same for bytes in Latin-1, as old systems encode; every byte is a letter there, so it never fails. */
export const decodeLatin1QueryText = (raw: string): string =>
  raw
    .replaceAll('+', ' ')
    .replace(/%([0-9a-f]{2})/gi, (_, byte: string) => String.fromCharCode(Number.parseInt(byte, 16)));

/** A name and its value as a pair of a query or form. */
export const queryPair = (name: string, value: string): string =>
  `${encodeURIComponent(name)}=${encodeURIComponent(value)}`;
