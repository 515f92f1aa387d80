import type { PageCoding } from '#core/catalogue';
import { pageCodings } from '#core/catalogue';
import { decodeQueryText } from './queryText.ts';

const strict = (page: string): string =>
  encodeURIComponent(page.toWellFormed()).replace(
    /[!'()*]/g,
    (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`,
  );
const loose = (page: string): string => encodeURIComponent(page.toWellFormed());
const lower = (text: string): string => text.replace(/%[0-9A-F]{2}/g, (byte) => byte.toLowerCase());
const base64 = (page: string): string =>
  btoa(String.fromCharCode(...new TextEncoder().encode(page.toWellFormed())));

/** A page as each coding writes it into a link. */
const codings: Readonly<Record<PageCoding, (page: string) => string>> = {
  percent: strict,
  'percent loose': loose,
  'percent lower': (page) => lower(strict(page)),
  'percent loose lower': (page) => lower(loose(page)),
  // The application/x-www-form-urlencoded serializer of the URL standard.
  form: (page) => new URLSearchParams({ p: page }).toString().slice(2),
  'percent twice': (page) => strict(strict(page)),
  'percent loose twice': (page) => loose(loose(page)),
  base64,
  'base64 escaped': (page) => encodeURIComponent(base64(page)),
  'base64 bare': (page) => base64(page).replace(/=+$/, ''),
  base64url: (page) => base64(page).replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, ''),
  plain: (page) => page,
};

/** A page in one coding. */
export const writePage = (page: string, coding: PageCoding): string => codings[coding](page);

/** The codings that write a page just as it stands in a link. */
export const codingsOf = (raw: string, page: string): PageCoding[] =>
  pageCodings.filter((coding) => codings[coding](page) === raw);

const pageUrl = /^https?:\/\/[^/\s]/i;

const fromBase64 = (raw: string): string | undefined => {
  // `http` in base64, as every address begins.
  if (!/^aHR0c/.test(raw)) return undefined;
  try {
    const bytes = Uint8Array.from(
      atob(decodeURIComponent(raw).replaceAll('-', '+').replaceAll('_', '/').replace(/=+$/, '')),
      (letter) => letter.charCodeAt(0),
    );
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return pageUrl.test(text) ? text : undefined;
  } catch {
    return undefined;
  }
};

/** The absolute address inside a value: as it stands, decoded once or twice, or in base64; undefined where there is none. */
export const pageInside = (raw: string): string | undefined => {
  let value = raw;
  for (let times = 0; times < 3; times++) {
    if (pageUrl.test(value)) return value;
    const next = decodeQueryText(value);
    if (next === value) break;
    value = next;
  }
  return fromBase64(raw);
};
