import type { Find, FindKind } from '#core/articles';
import type { ToMend } from '#core/where-used';

/** What a find is called. */
export const kindWords: Readonly<Record<FindKind, string>> = {
  shop: 'Shop address',
  raw: 'Raw tracking link',
  ended: 'Ended link',
  nowhere: 'Leads nowhere',
  dead: 'Dead destination',
  'not joined': 'Pays nothing',
  rule: 'Merchant’s rule',
  name: 'Merchant’s name',
  marks: 'Marks missing',
  keyword: 'Keyword',
  picture: 'Picture',
  alt: 'Alt text missing',
  disclosure: 'Disclosure missing',
  price: 'Old price',
  coupon: 'Ended coupon',
};

/** What is to be mended on a page, as it is called. */
export const mendWords = (kind: ToMend['kind']): string =>
  kind === 'earlier' ? 'Earlier destination' : kindWords[kind];

/** Kinds that are wrong as they stand; the others are chances. */
const faults: ReadonlySet<FindKind> = new Set([
  'raw',
  'ended',
  'nowhere',
  'dead',
  'not joined',
  'rule',
  'name',
  'marks',
  'alt',
  'disclosure',
  'price',
  'coupon',
]);
/** How a find is drawn: `fault` needs mending, `chance` earns nothing yet, `word` is a keyword. */
export const findLook = ({ kind }: Pick<Find, 'kind'>): 'fault' | 'chance' | 'word' =>
  kind === 'keyword' ? 'word' : faults.has(kind) ? 'fault' : 'chance';

/** What accepting it is called. */
export const acceptWords = (find: Pick<Find, 'kind'>): string => (findLook(find) === 'fault' ? 'Fix' : 'Use');
