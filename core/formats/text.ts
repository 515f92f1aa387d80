/** How the bytes of a file were read. */
export interface DecodedText {
  readonly text: string;
  readonly encoding: 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';
}

/** What Windows-1252 has at 0x80 to 0x9F (WHATWG Encoding standard, index windows-1252); not every runtime knows it. */
const upper = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';
const decodeWindows = (bytes: Uint8Array): string => {
  let text = '';
  for (const byte of bytes)
    text += byte >= 0x80 && byte <= 0x9f ? upper.charAt(byte - 0x80) : String.fromCharCode(byte);
  return text;
};

/**
 * Reads the bytes of a text file: by its byte order mark, else as UTF-8, else, where that cannot be, as Windows-1252
 * (the encodings of the WHATWG Encoding standard).
 */
export const decodeText = (bytes: Uint8Array): DecodedText => {
  const encoding =
    bytes[0] === 0xff && bytes[1] === 0xfe
      ? 'utf-16le'
      : bytes[0] === 0xfe && bytes[1] === 0xff
        ? 'utf-16be'
        : 'utf-8';
  try {
    return { text: new TextDecoder(encoding, { fatal: true }).decode(bytes), encoding };
  } catch {
    return { text: decodeWindows(bytes), encoding: 'windows-1252' };
  }
};
