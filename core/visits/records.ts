import * as v from 'valibot';

const seq = v.pipe(v.number(), v.integer(), v.minValue(1));
const at = v.pipe(v.number(), v.integer());
const base = { seq, at };

/** A request for a short link. */
const hop = v.object({
  ...base,
  kind: v.literal('hop'),
  /** Click ID; empty for a prefetch, which makes none. */
  click: v.string(),
  link: v.string(),
  edition: v.number(),
  branch: v.string(),
  source: v.string(),
  status: v.number(),
  method: v.string(),
  host: v.string(),
  ua: v.string(),
  visitor: v.string(),
  country: v.string(),
  device: v.picklist(['phone', 'tablet', 'desktop']),
  from: v.string(),
  query: v.string(),
  lang: v.string(),
  prefetch: v.boolean(),
  test: v.boolean(),
});

/** A postback as it came. */
const postback = v.object({
  ...base,
  kind: v.literal('postback'),
  network: v.string(),
  via: v.picklist(['GET', 'POST']),
  query: v.string(),
  /** The body of a POST, as text. */
  body: v.nullable(v.string()),
  /** Content type of the body. */
  type: v.exactOptional(v.string()),
  ip: v.string(),
  /** Why nobody can say that the network sent it; it counts only once a person says so. */
  unsure: v.exactOptional(v.picklist(['sender', 'signature', 'pixel'])),
  /** It came by the key before this one, which was still good. */
  oldKey: v.exactOptional(v.boolean()),
  /** A sample a person sent; it is no conversion. */
  sample: v.exactOptional(v.boolean()),
});

/** An event reported by a page of the person's own; anybody could have sent it. */
const pixel = v.object({
  ...base,
  kind: v.literal('pixel'),
  network: v.string(),
  query: v.string(),
  ua: v.string(),
  from: v.string(),
});

/** What the page script reports: a click on a link that may not be cloaked, or time spent. */
const beacon = v.object({
  ...base,
  kind: v.literal('beacon'),
  event: v.picklist(['click', 'time']),
  /** The click ID the page made and sent along to the merchant; empty where it sent none. */
  click: v.optional(v.string(), ''),
  link: v.string(),
  source: v.string(),
  page: v.string(),
  seconds: v.number(),
  ua: v.string(),
  visitor: v.string(),
  country: v.string(),
});

/** A change of the catalogue, so that any edition can be explained. */
const change = v.object({
  ...base,
  kind: v.literal('change'),
  edition: v.number(),
  of: v.string(),
  record: v.string(),
  revision: v.number(),
  by: v.string(),
  /** Changes made as one step carry the same. */
  step: v.exactOptional(v.string()),
  value: v.nullable(v.record(v.string(), v.unknown())),
});

/**
 * What a trace of a link came to. A person's trace asks the network, which may take it for a click; the nightly check
 * asks only the shop's page.
 */
const trace = v.object({
  ...base,
  kind: v.literal('trace'),
  by: v.picklist(['person', 'nightly']),
  /** Empty where an address was traced that is no link's yet. */
  link: v.string(),
  /** Every host that was asked, in order. */
  hosts: v.array(v.string()),
  /** The last stop answered 200 and does not say that what it offers is gone. */
  alive: v.boolean(),
  because: v.string(),
  /** What still stood on the order page, where one was found. */
  kept: v.exactOptional(v.array(v.string())),
});

/** Hops that could not be kept because the disk did not take them. */
const lost = v.object({ ...base, kind: v.literal('lost'), count: v.number(), until: at });

/** One line of the journal. */
export const journalRecord = v.variant('kind', [hop, postback, pixel, beacon, change, trace, lost]);
export type JournalRecord = v.InferOutput<typeof journalRecord>;
/** A record before it has its place in the journal. */
export type JournalDraft = JournalRecord extends infer R
  ? R extends JournalRecord
    ? Omit<R, 'seq'>
    : never
  : never;
export type HopRecord = v.InferOutput<typeof hop>;
export type TraceRecord = v.InferOutput<typeof trace>;
export type PostbackRecord = v.InferOutput<typeof postback>;
export type PixelRecord = v.InferOutput<typeof pixel>;
export type Unsure = NonNullable<PostbackRecord['unsure']>;

/** What a page script may send to `/beacon`. */
export const beaconBody = v.strictObject({
  event: v.picklist(['click', 'time']),
  click: v.optional(v.pipe(v.string(), v.regex(/^[0-7][0-9A-HJKMNP-TV-Z]{25}$|^$/)), ''),
  link: v.pipe(v.string(), v.maxLength(60)),
  source: v.optional(v.pipe(v.string(), v.regex(/^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$|^$/)), ''),
  page: v.pipe(v.string(), v.maxLength(1000)),
  seconds: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(86_400)), 0),
});
