import type { Edit, Range } from './ranges.ts';

/**
 * What can be found in an article:
 * - `shop` a page of a joined shop, `raw` a tracking link, that a link of ours may take the place of;
 * - `ended` a link whose time is over, `nowhere` a short address without a link, `dead` a destination that died, `not joined` a shop
 *   that pays nothing;
 * - `rule` a link that its merchant does not want so, `name` words that lack the merchant's name;
 * - `marks` a link without marks it has to have;
 * - `keyword` words of a link, `picture` a picture beside a link, `alt` a linked picture without words;
 * - `disclosure` nothing says why the links are there;
 * - `price`, `coupon` what is read there is no longer so.
 */
export const findKinds = [
  'shop',
  'raw',
  'ended',
  'nowhere',
  'dead',
  'not joined',
  'rule',
  'name',
  'marks',
  'keyword',
  'picture',
  'alt',
  'disclosure',
  'price',
  'coupon',
] as const;
export type FindKind = (typeof findKinds)[number];

/** Something in an article that could be better, and how. */
export interface Find extends Range {
  readonly kind: FindKind;
  /** What makes it so; none where a person has to do it. */
  readonly edits: readonly Edit[];
  /** The link it leads to. */
  readonly link?: string | undefined;
  /** Links that could be taken in its place. */
  readonly others?: readonly string[];
  /** An address that a link is to be made of before. */
  readonly make?: string;
  /** What it was, in a few words. */
  readonly was: string;
  /** By this it is known again where it was refused for good. */
  readonly key: string;
}
