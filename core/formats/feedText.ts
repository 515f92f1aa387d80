import { decodeWindows, unmarked } from './text.ts';

/** A file as its bytes, from the beginning each time it is asked. */
export type FileBytes = () => AsyncIterable<Uint8Array>;

/** What the letters of a file are written in. */
export const feedEncodings = [
  'utf-8',
  'utf-16le',
  'utf-16be',
  'windows-1252',
  'iso-8859-2',
  'windows-1250',
  'shift_jis',
  'gb18030',
] as const;
export type FeedEncoding = (typeof feedEncodings)[number];

export interface FoundEncoding {
  readonly encoding: FeedEncoding;
  /** Bytes that are no letter in it. */
  readonly broken: number;
}

const isFeedEncoding = (name: string): name is FeedEncoding =>
  (feedEncodings as readonly string[]).includes(name);

/** The encoding an XML declaration names, by the names of the WHATWG Encoding standard. */
const declared = (beginning: Uint8Array): FeedEncoding | undefined => {
  const label = /^\s*<\?xml[^>]*\bencoding=["']([\w.:-]+)["']/.exec(
    decodeWindows(beginning.subarray(0, 200)),
  )?.[1];
  if (label === undefined) return undefined;
  try {
    const { encoding } = new TextDecoder(label);
    return isFeedEncoding(encoding) ? encoding : undefined;
  } catch {
    return undefined;
  }
};

/**
 * Tells in what the letters of a file are written, by all of its bytes: by its byte order mark; as UTF-8 where more of its letters
 * are than are not, a few broken ones may be among a million rows; else as its XML declaration says, else as Windows-1252.
 */
export const findEncoding = async (bytes: FileBytes): Promise<FoundEncoding> => {
  let beginning: Uint8Array | undefined;
  let [good, broken, awaited] = [0, 0, 0];
  for await (const chunk of bytes()) {
    if (!beginning) {
      beginning = chunk;
      const wide =
        chunk[0] === 0xff && chunk[1] === 0xfe
          ? 'utf-16le'
          : chunk[0] === 0xfe && chunk[1] === 0xff
            ? 'utf-16be'
            : unmarked(chunk);
      if (wide) return { encoding: wide, broken: 0 };
    }
    for (const byte of chunk) {
      if (byte < 0x80) {
        if (awaited > 0) broken += 1;
        awaited = 0;
      } else if (byte < 0xc0) {
        if (awaited === 0) broken += 1;
        else if (--awaited === 0) good += 1;
      } else {
        if (awaited > 0) broken += 1;
        awaited = byte >= 0xf5 || byte < 0xc2 ? 0 : byte >= 0xf0 ? 3 : byte >= 0xe0 ? 2 : 1;
        if (awaited === 0) broken += 1;
      }
    }
  }
  if (awaited > 0) broken += 1;
  if (broken === 0 || good > broken) return { encoding: 'utf-8', broken };
  const said = declared(beginning ?? new Uint8Array());
  return { encoding: said === undefined || said === 'utf-8' ? 'windows-1252' : said, broken: 0 };
};

/** The text of a file, piece by piece; a letter is never cut. A byte that is no letter becomes U+FFFD. */
export async function* decodeFile(bytes: FileBytes, encoding: FeedEncoding): AsyncGenerator<string> {
  if (encoding === 'windows-1252') {
    for await (const chunk of bytes()) yield decodeWindows(chunk);
    return;
  }
  const decoder = new TextDecoder(encoding);
  for await (const chunk of bytes()) yield decoder.decode(chunk, { stream: true });
  yield decoder.decode();
}
