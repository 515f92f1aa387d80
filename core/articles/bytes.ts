import type { Edit } from './ranges.ts';
import { inOrder, withEdits } from './ranges.ts';

/** Articles larger than this are not read: nobody writes one, and a browser would stand still. */
export const largestArticle = 50_000_000;

/** A file as it is read, and how its changes are written back. */
export interface ArticleFile {
  readonly text: string;
  /** What its letters are written in, by its name in the WHATWG Encoding standard. */
  readonly encoding: string;
  /** The encoding is a guess: nothing in the file says it, and it is not UTF-8. */
  readonly isGuessed: boolean;
  /** Its bytes with edits carried out; every other byte is as it was. */
  readonly write: (edits: readonly Edit[]) => Uint8Array;
}
export type ReadFile = ({ readonly ok: true } & ArticleFile) | { readonly ok: false; readonly says: string };

/** The encoding a page or an export says it is in (HTML standard, §13.2.3.2; XML 1.0, §4.3.3); undefined where it says none. */
const declaredIn = (bytes: Uint8Array): string | undefined => {
  const beginning = new TextDecoder('latin1').decode(bytes.subarray(0, 1024));
  const label =
    /^\s*<\?xml[^>]*\bencoding=["']([\w.:-]+)["']/.exec(beginning)?.[1] ??
    /<meta[^>]+charset\s*=\s*["']?([\w.:-]+)/i.exec(beginning)?.[1];
  try {
    return label === undefined ? undefined : new TextDecoder(label).encoding;
  } catch {
    return undefined;
  }
};

const isValid = (bytes: Uint8Array, encoding: string): boolean => {
  try {
    new TextDecoder(encoding, { fatal: true }).decode(bytes);
    return true;
  } catch {
    return false;
  }
};

/** Beginnings of files that are no text (common practice). */
const signatures: readonly (readonly [says: string, ...bytes: number[]])[] = [
  ['a ZIP archive, such as a document of an office program', 0x50, 0x4b, 0x03, 0x04],
  ['a PDF', 0x25, 0x50, 0x44, 0x46],
  ['a picture', 0x89, 0x50, 0x4e, 0x47],
  ['a picture', 0xff, 0xd8, 0xff],
  ['a picture', 0x47, 0x49, 0x46, 0x38],
  ['compressed', 0x1f, 0x8b],
];

/** Letters that the encoding may not have, as character references: HTML and Markdown both read them. */
const asReferences = (text: string): string =>
  text.replace(/[^\x00-\x7f]/gu, (letter) => `&#${letter.codePointAt(0) ?? 0xfffd};`);

const joined = (parts: readonly Uint8Array[]): Uint8Array => {
  const whole = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
};

const encodeWide = (text: string, isLittle: boolean): Uint8Array => {
  const bytes = new Uint8Array(text.length * 2);
  const view = new DataView(bytes.buffer);
  for (let i = 0; i < text.length; i++) view.setUint16(i * 2, text.charCodeAt(i), isLittle);
  return bytes;
};

/** Where each letter of a text stands in its bytes, found by decoding them one by one. */
const placesIn = (bytes: Uint8Array, encoding: string): number[] => {
  const decoder = new TextDecoder(encoding, { ignoreBOM: true });
  const places: number[] = [];
  let begun = 0;
  for (let i = 0; i < bytes.length; i++) {
    const { length } = decoder.decode(bytes.subarray(i, i + 1), { stream: true });
    for (let n = 0; n < length; n++) places.push(begun);
    if (length > 0) begun = i + 1;
  }
  return places;
};

/**
 * Reads the bytes of an article, so that they can be written back with some changes and no other: by its byte order mark, else as
 * UTF-8 where it is that, else as it says itself, else as Windows-1252 (the encodings of the WHATWG Encoding standard).
 *
 * @param asked the encoding a person says it has; undefined to find it
 */
export const readBytes = (bytes: Uint8Array, asked?: string): ReadFile => {
  if (bytes.length > largestArticle)
    return {
      ok: false,
      says: `It has ${Math.round(bytes.length / 1_000_000)} MB. Articles are read up to ${largestArticle / 1_000_000} MB; part it into several.`,
    };
  const kind = signatures.find(([, ...start]) => start.every((byte, i) => bytes[i] === byte));
  if (kind)
    return { ok: false, says: `It is ${kind[0]}, not an article of HTML, Markdown or an RSS export.` };
  const marked =
    bytes[0] === 0xff && bytes[1] === 0xfe
      ? 'utf-16le'
      : bytes[0] === 0xfe && bytes[1] === 0xff
        ? 'utf-16be'
        : bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf
          ? 'utf-8'
          : undefined;
  if (!marked?.startsWith('utf-16') && bytes.subarray(0, 8000).includes(0))
    return { ok: false, says: 'It is not text: it has zero bytes, as programs and pictures have.' };
  const declared = declaredIn(bytes);
  const found = asked ?? marked ?? (isValid(bytes, 'utf-8') ? 'utf-8' : undefined);
  if (found === undefined && declared === 'utf-8')
    return {
      ok: false,
      says: 'It says it is UTF-8, and is not: some of its letters would be read wrongly. Say what it is written in.',
    };
  const encoding = found ?? declared ?? 'windows-1252';
  if (!isValid(bytes, encoding))
    return {
      ok: false,
      says: `Some of its letters are none in ${encoding}. Say what else it is written in.`,
    };
  const text = new TextDecoder(encoding, { ignoreBOM: true }).decode(bytes);
  if (encoding === 'utf-8')
    return {
      ok: true,
      text,
      encoding,
      isGuessed: false,
      write: (edits) => {
        // A page that says it is in another encoding is read in that one by browsers: plain letters are the same in both.
        const isSaid = marked === 'utf-8' || declared === undefined || declared === 'utf-8';
        const written = isSaid ? edits : edits.map((edit) => ({ ...edit, text: asReferences(edit.text) }));
        return new TextEncoder().encode(withEdits(text, written));
      },
    };
  if (encoding === 'utf-16le' || encoding === 'utf-16be') {
    if (bytes.length % 2 === 1)
      return { ok: false, says: 'It is UTF-16 and ends within a letter: it was cut short.' };
    return {
      ok: true,
      text,
      encoding,
      isGuessed: false,
      write: (edits) => encodeWide(withEdits(text, edits), encoding === 'utf-16le'),
    };
  }
  // In most, a letter is a byte.
  const places = text.length === bytes.length ? undefined : placesIn(bytes, encoding);
  if (places && places.length !== text.length)
    return {
      ok: false,
      says: `Changes cannot be written back surely in ${encoding}. Save it as UTF-8 first.`,
    };
  const place = (index: number) => places?.[index] ?? (index >= text.length ? bytes.length : index);
  return {
    ok: true,
    text,
    encoding,
    isGuessed: asked === undefined && declared === undefined,
    write: (edits) => {
      const parts: Uint8Array[] = [];
      let done = 0;
      for (const { start, end, text: added } of inOrder(edits)) {
        parts.push(bytes.subarray(done, place(start)), new TextEncoder().encode(asReferences(added)));
        done = place(end);
      }
      return joined([...parts, bytes.subarray(done)]);
    },
  };
};
