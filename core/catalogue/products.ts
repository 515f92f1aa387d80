import * as v from 'valibot';
import { currency, id, localDay, moment, named, parameter, text, webAddress } from './fields.ts';

/** Minor units (cents, yen, fils) of something that is for sale. */
const price = v.pipe(v.number(), v.safeInteger(), v.minValue(0, 'A price is not below zero.'));
/** A source as it stands in an address after `~`; empty for none. */
export const sourceName = v.pipe(
  v.string(),
  v.regex(
    /^(?:[A-Za-z0-9][A-Za-z0-9_-]{0,63})?$/,
    'A source is letters and digits, with - and _ between them.',
  ),
);

/** What stands for a product where it was placed: to be told when it is no longer true. */
const placement = v.strictObject({
  /** The source under which it was copied: where it stands. */
  source: sourceName,
  at: moment,
  /** The price that is read there, in the product's currency. */
  amount: v.exactOptional(price),
  currency: v.exactOptional(currency),
  /** The coupon that is read there. */
  coupon: v.exactOptional(text(80)),
});

/** Something that is for sale: what cards and posts say of it is written here once. */
export const product = v.strictObject({
  id: id('pro'),
  /** Who sells it. */
  program: v.optional(id('prg')),
  name: named(300),
  /** The shop's own number of it, by which a newer feed knows it again. */
  code: text(120),
  /** Its page at the shop. */
  page: webAddress(4000, 'Its page'),
  picture: v.exactOptional(webAddress(2000, 'A picture')),
  /** What the picture shows, for who does not see it; its name when left out. */
  alt: v.exactOptional(named(300)),
  /** What it costs, and the day on which it was found to. */
  price: v.exactOptional(
    v.strictObject({
      amount: price,
      currency,
      day: localDay,
      /** What it is said to have cost before, or elsewhere. */
      list: v.exactOptional(price),
    }),
  ),
  /** What is said of it in a few sentences. */
  about: v.exactOptional(text(1000)),
  /** A code that makes it cheaper, and the last day on which it does. */
  coupon: v.exactOptional(v.strictObject({ code: named(80), until: v.exactOptional(localDay) })),
  /** The short link to it. */
  link: v.exactOptional(id('lnk')),
  /** Where its cards stand, as they were copied; one for each source. */
  placed: v.exactOptional(v.pipe(v.array(placement), v.maxLength(200))),
  createdAt: moment,
});

/** A picture of the person's own, small enough to travel with what it belongs to. */
export const picture = v.strictObject({
  id: id('pic'),
  /** Name of its file. */
  name: named(200),
  width: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(4000)),
  height: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(4000)),
  /** JPEG in base64. */
  data: v.pipe(
    v.string(),
    v.regex(/^[A-Za-z0-9+/]+={0,2}$/, 'A picture is written in base64.'),
    v.maxLength(700_000, 'A picture has at most half a megabyte.'),
  ),
});

/** What one post is made of: picture, words, what to do, why the link is there, and the link last. */
export const kit = v.strictObject({
  id: id('kit'),
  name: named(120),
  link: id('lnk'),
  source: sourceName,
  picture: v.exactOptional(id('pic')),
  /** What the picture shows, for who does not see it. */
  alt: text(1000),
  text: text(5000),
  /** What the reader is asked to do. */
  action: text(200),
  disclosure: text(500),
  createdAt: moment,
});

/** What a person knows of a source: what arrives after `~` or `?from=` needs no such record. */
export const source = v.strictObject({
  id: id('src'),
  /** As it stands in addresses. */
  source: v.pipe(sourceName, v.minLength(1, 'A source has a name in addresses.')),
  title: text(120),
  channel: text(60),
  note: text(2000),
  /** The source it counts as, where it is a slip of that one's name. */
  as: v.exactOptional(v.pipe(sourceName, v.minLength(1))),
  /** In which parameters of the short address its seller passes along what it knows of each visit. */
  passes: v.exactOptional(
    v.strictObject({
      placement: v.exactOptional(parameter),
      keyword: v.exactOptional(parameter),
      creative: v.exactOptional(parameter),
      /** What the visit cost, in units of a currency such as `0.045`. */
      cost: v.exactOptional(v.strictObject({ parameter, currency })),
    }),
  ),
});

export type Product = v.InferOutput<typeof product>;
export type OwnPicture = v.InferOutput<typeof picture>;
export type Kit = v.InferOutput<typeof kit>;
export type SourceRecord = v.InferOutput<typeof source>;
