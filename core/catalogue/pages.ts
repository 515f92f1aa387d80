import * as v from 'valibot';
import { currency, id, moment, named, text } from './fields.ts';

/** A link on a page: of ours, or one that a link of ours may take the place of; each address once. */
const linkOnPage = v.strictObject({
  /** As it stands there, whole. */
  address: named(8000),
  /** The link it belongs to; left out where none does. */
  link: v.exactOptional(id('lnk')),
  /** How often it stands there. */
  times: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(1_000_000)),
  /** What its marks lack there, as a sentence; left out where nothing. */
  marks: v.exactOptional(text(500)),
});

/** What a page says of a product: a price it was placed with once, in minor units of its currency, or a coupon. */
const saidOnPage = v.strictObject({
  product: id('pro'),
  amount: v.exactOptional(v.pipe(v.number(), v.safeInteger(), v.minValue(0))),
  currency: v.exactOptional(currency),
  coupon: v.exactOptional(text(80)),
});

/** A page of a site or a file of an article, as it was when it was read last, and what of ours stands on it. */
export const page = v.strictObject({
  id: id('pge'),
  /** Address of a page; of a file its name, with the folders it was opened by. */
  name: named(4000),
  title: text(300),
  by: v.picklist(['crawl', 'file']),
  readAt: moment,
  links: v.pipe(v.array(linkOnPage), v.maxLength(2000)),
  /** How many more addresses stand there than are kept. */
  more: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(1))),
  says: v.exactOptional(v.pipe(v.array(saidOnPage), v.maxLength(500))),
});

export type Page = v.InferOutput<typeof page>;
