/** How the bytes of a file were read. */
export interface DecodedText {
  readonly text: string;
  readonly encoding: 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';
}

/** What Windows-1252 has at 0x80 to 0x9F (WHATWG Encoding standard, index windows-1252); not every runtime knows it. */
const upper = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';
/** Bytes as Windows-1252; each is a character, so a file may be read piece by piece. */
export const decodeWindows = (bytes: Uint8Array): string => {
  let text = '';
  for (const byte of bytes)
    text += byte >= 0x80 && byte <= 0x9f ? upper.charAt(byte - 0x80) : String.fromCharCode(byte);
  return text;
};

/** As many bytes as tell UTF-16 without a byte order mark. */
const looked = 2000;
/** UTF-16 without a byte order mark: every other byte of plain letters and digits is none. */
export const unmarked = (bytes: Uint8Array): 'utf-16le' | 'utf-16be' | undefined => {
  const end = Math.min(looked, bytes.length - (bytes.length % 2));
  const zeros: [number, number] = [0, 0];
  for (let i = 0; i < end; i++) if (bytes[i] === 0) zeros[i % 2 === 0 ? 0 : 1] += 1;
  const [even, odd] = zeros.map((count) => count / (end / 2));
  if (even === undefined || odd === undefined) return undefined;
  return odd > 0.7 && even < 0.1 ? 'utf-16le' : even > 0.7 && odd < 0.1 ? 'utf-16be' : undefined;
};

/**
 * Reads the bytes of a text file: by its byte order mark, or as UTF-16 where it can only be that, else as UTF-8, else, where that cannot be, as Windows-1252
 * (the encodings of the WHATWG Encoding standard).
 */
export const decodeText = (bytes: Uint8Array): DecodedText => {
  const encoding =
    unmarked(bytes) ??
    (bytes[0] === 0xff && bytes[1] === 0xfe
      ? 'utf-16le'
      : bytes[0] === 0xfe && bytes[1] === 0xff
        ? 'utf-16be'
        : 'utf-8');
  try {
    return { text: new TextDecoder(encoding, { fatal: true }).decode(bytes), encoding };
  } catch {
    return { text: decodeWindows(bytes), encoding: 'windows-1252' };
  }
};
