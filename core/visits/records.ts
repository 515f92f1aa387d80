import * as v from 'valibot';
import { ulidPattern } from '#core/catalogue';

const seq = v.pipe(v.number(), v.integer(), v.minValue(1));
const at = v.pipe(v.number(), v.integer());
/** Where a record stood before the server lost it, of one that a browser gave back since. */
const givenBack = v.object({ seq, version: v.exactOptional(v.number()) });
const base = { seq, at, givenBack: v.exactOptional(givenBack) };

/** A request for a short link. */
const hop = v.object({
  ...base,
  kind: v.literal('hop'),
  /** Click ID; empty for a prefetch, which makes none. */
  click: v.string(),
  link: v.string(),
  /** The version of the link; 0 of a record given back: versions were counted anew since. */
  version: v.number(),
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
  /** Whether the address belonged to a hosting network; not there where that could not be told. */
  hosting: v.exactOptional(v.boolean()),
  /** The click that led to the page of the person's own on which the link stands. */
  first: v.exactOptional(v.string()),
});

/** A postback as it came. */
const postback = v.object({
  ...base,
  kind: v.literal('postback'),
  network: v.string(),
  via: v.picklist(['GET', 'POST']),
  query: v.string(),
  /** The body of a POST, read as UTF-8, or as Latin-1 where it is none. */
  body: v.nullable(v.string()),
  /** The body's bytes in base64, where they are not UTF-8. */
  bytes: v.exactOptional(v.string()),
  /** Content type of the body. */
  type: v.exactOptional(v.string()),
  ip: v.string(),
  /** Why nobody can say that the network sent it; it counts only once a person says so. */
  unverified: v.exactOptional(v.picklist(['sender', 'signature', 'time', 'pixel'])),
  /** What its signature covers, where the network signs and the signature is right: nothing else of it is read. */
  signed: v.exactOptional(v.picklist(['query', 'body', 'both'])),
  /** That signature, in hex, or both with a point between: one seen before is a repeat, whatever was added around it. */
  signature: v.exactOptional(v.string()),
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

/**
 * What a page reports: a click on a link that may not be cloaked (the page script). How long a page of ours was open was once told so,
 * one record a visitor; now it is gathered in `reading`.
 */
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
  /** Both as of a request. */
  hosting: v.exactOptional(v.boolean()),
  first: v.exactOptional(v.string()),
});

/**
 * How a page with the page script was read, or how long a frame or waiting page of ours was in sight, over some minutes from `at` on: one
 * record for however many readers of the same source.
 */
const reading = v.object({
  ...base,
  kind: v.literal('reading'),
  page: v.string(),
  /** Page views that began. */
  views: v.number(),
  /** For how long they were in sight, and how much of the page was seen in hundredths, added up over them. */
  seconds: v.number(),
  depth: v.number(),
  /** Links of ours that stand on the page, where they are not the same as were told of it last. */
  links: v.exactOptional(v.array(v.string())),
  /** The link whose frame or waiting page it is; left out of a page with the script. */
  link: v.exactOptional(v.string()),
  /** Of readers who came through a link of ours: by which source, and how many of them scrolled. */
  source: v.exactOptional(v.string()),
  scrolled: v.exactOptional(v.number()),
});

/** A change of the catalogue, so that any version can be explained. */
const change = v.object({
  ...base,
  kind: v.literal('change'),
  version: v.number(),
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
  surviving: v.exactOptional(v.array(v.string())),
});

/** The second page of a hop that goes by two: it leads on with the first one's click ID and is no hop of its own. */
const secondPage = v.object({
  ...base,
  kind: v.literal('second'),
  click: v.string(),
  link: v.string(),
  version: v.number(),
  branch: v.string(),
  host: v.string(),
  status: v.number(),
});

/** Requests that were answered and not written down, since the disk did not take them or their senders sent too many. */
const lost = v.object({
  ...base,
  kind: v.literal('lost'),
  count: v.number(),
  until: at,
  why: v.picklist(['disk', 'limit', 'damage']),
  /** How many of them were hops, by link; one entry without a name for links beyond the first hundred. */
  links: v.record(v.string(), v.number()),
});

/** What happened around keys and around what leaves the server. */
const auditEvents = [
  'wrong key',
  'new key',
  'export',
  'erasure',
  'refused postback',
  'bad signature',
  'given back',
  'access log',
] as const;

/** One of these, or several of the same within a minute. */
const audit = v.object({
  ...base,
  kind: v.literal('audit'),
  event: v.picklist(auditEvents),
  /** When the last of them happened. */
  until: at,
  count: v.number(),
  /** What it was about, as a sentence for the person; never a key, and no visitor's address. */
  detail: v.string(),
});

/** One line of the journal. */
export const journalRecord = v.variant('kind', [
  hop,
  secondPage,
  postback,
  pixel,
  beacon,
  reading,
  change,
  trace,
  lost,
  audit,
]);
export type JournalRecord = v.InferOutput<typeof journalRecord>;
/** A record before it has its place in the journal. */
export type JournalDraft = JournalRecord extends infer R
  ? R extends JournalRecord
    ? Omit<R, 'seq'>
    : never
  : never;
export type HopRecord = v.InferOutput<typeof hop>;
export type TraceRecord = v.InferOutput<typeof trace>;
export type ReadingRecord = v.InferOutput<typeof reading>;
export type PostbackRecord = v.InferOutput<typeof postback>;
export type PixelRecord = v.InferOutput<typeof pixel>;
export type LostRecord = v.InferOutput<typeof lost>;
export type AuditRecord = v.InferOutput<typeof audit>;
export type AuditEvent = AuditRecord['event'];
export type Unverified = NonNullable<PostbackRecord['unverified']>;

const beaconClick = v.pipe(v.string(), v.regex(ulidPattern, 'A click ID is a ULID.'));
const linkId = v.pipe(v.string(), v.maxLength(60));
const beaconBase = {
  link: linkId,
  /** The click ID the page made; or, of time, the one its page was opened with. */
  click: beaconClick,
  source: v.optional(v.pipe(v.string(), v.regex(/^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$|^$/)), ''),
  page: v.pipe(v.string(), v.maxLength(1000)),
};

const beaconSeconds = v.pipe(v.number(), v.minValue(0), v.maxValue(86_400));
/** Most links of one page that are told. */
export const mostLinksTold = 120;

/** What a page script may send to `/beacon`. */
export const beaconBody = v.variant('event', [
  v.strictObject({
    event: v.literal('click'),
    ...beaconBase,
    seconds: v.optional(v.literal(0), 0),
    /** The click that led to the page, as the page's address says; what is no click ID is left out. */
    first: v.exactOptional(v.pipe(v.string(), v.maxLength(60))),
  }),
  v.strictObject({
    event: v.literal('time'),
    ...beaconBase,
    seconds: beaconSeconds,
  }),
  v.strictObject({
    event: v.literal('read'),
    ...beaconBase,
    link: v.optional(v.literal(''), ''),
    seconds: beaconSeconds,
    /** A page that was made smaller meanwhile says more than all of it. */
    depth: v.pipe(
      v.number(),
      v.integer(),
      v.minValue(0),
      v.transform((depth) => Math.min(100, depth)),
    ),
    scrolled: v.exactOptional(v.boolean()),
    /** The click of ours that led to the page, as the page's address says; what is no click ID is left out. */
    first: v.exactOptional(v.pipe(v.string(), v.maxLength(60))),
    links: v.exactOptional(v.pipe(v.array(linkId), v.maxLength(mostLinksTold))),
  }),
]);
export type BeaconBody = v.InferOutput<typeof beaconBody>;
