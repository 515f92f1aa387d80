import { foldText } from './foldText.ts';

/** Longest slug, in characters. */
export const slugLength = 80;

/** Addresses the server itself answers on every link domain. */
const reserved = new Set([
  'api',
  'beacon',
  'favicon.ico',
  'pixel',
  'place.js',
  'thanks.js',
  'postback',
  'robots.txt',
  'sitemap.xml',
  'well-known',
]);

/** Says why a domain's prefix cannot be chosen; nothing where it can. Its first word may be an address of the server. */
export const prefixProblem = (prefix: string): string | undefined => {
  const [first = ''] = prefix.split('/', 1);
  return reserved.has(first.toLowerCase())
    ? `"${first}/" is where the server itself answers. Choose another prefix.`
    : undefined;
};

const stopWords = new Set(['a', 'an', 'and', 'for', 'in', 'of', 'on', 'our', 'the', 'to', 'with', 'your']);

/** Folds a text to lower-case ASCII words; letters of other scripts fall away. */
const words = (text: string): string[] =>
  foldText(text)
    .replaceAll('&', ' and ')
    .replace(/['’]/g, '')
    .split(/[^a-z0-9]+/)
    .filter(Boolean);

/**
 * Proposes a slug for a title: ASCII words joined by `-`, small words left out, at most 40 characters
 * cut at a word. Gives an empty text when the title holds no Latin letter or digit.
 */
export const proposeSlug = (title: string): string => {
  const all = words(title);
  const telling = all.filter((word) => !stopWords.has(word));
  let slug = '';
  for (const word of telling.length > 0 ? telling : all) {
    const longer = slug === '' ? word : `${slug}-${word}`;
    if (longer.length > 40) break;
    slug = longer;
  }
  return slug === '' ? (all[0] ?? '').slice(0, 40) : slug;
};

/** Says what is wrong with a slug, or nothing. Slugs ignore case, so upper case is fine here. */
export const slugProblem = (slug: string): string | undefined => {
  if (slug === '') return 'The slug is empty. Type a short word for the address.';
  if (slug.length > slugLength) return `The slug has ${slug.length} characters; ${slugLength} are the most.`;
  if (/\s/.test(slug)) return 'A slug cannot hold spaces. Use - between words.';
  if (!/^[a-z0-9](?:[a-z0-9._-]*[a-z0-9])?$/i.test(slug))
    return 'A slug holds letters a to z, digits, and - . _ between them.';
  if (reserved.has(slug.toLowerCase()))
    return `"${slug}" is an address the server needs itself. Choose another.`;
  return undefined;
};

/** Gives `count` free slugs near a taken one, nearest first. `taken` is asked with lower-case slugs. */
export const alternatives = (slug: string, taken: (slug: string) => boolean, count = 3): string[] => {
  const found: string[] = [];
  const base = slug.toLowerCase().slice(0, slugLength - 5);
  for (let n = 2; found.length < count && n < 10_000; n++) {
    const candidate = `${base}-${n}`;
    if (!taken(candidate)) found.push(candidate);
  }
  return found;
};

/** The slug itself when free, else the nearest free alternative. */
export const freeSlug = (slug: string, taken: (slug: string) => boolean): string =>
  taken(slug.toLowerCase()) || slugProblem(slug) !== undefined
    ? (alternatives(slug === '' ? 'link' : slug, taken, 1)[0] ?? slug)
    : slug.toLowerCase();
