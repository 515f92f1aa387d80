import * as v from 'valibot';
import { slugProblem } from './slug.ts';

const text = (max: number) => v.pipe(v.string(), v.maxLength(max, `At most ${max} characters fit here.`));
const named = (max: number) => v.pipe(text(max), v.trim(), v.minLength(1, 'This cannot be empty.'));
const id = (prefix: string) =>
  v.pipe(
    v.string(),
    v.regex(new RegExp(`^${prefix}_[a-z0-9]{1,40}$`), `Not an ID that begins with ${prefix}_.`),
  );
const host = v.pipe(
  v.string(),
  v.regex(
    /^(?=.{1,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z][a-z0-9-]{0,61}[a-z0-9]$/,
    'Not a host name. It looks like see.nightledge.example, in lower case, with no scheme and no path.',
  ),
);
const zone = v.pipe(
  v.string(),
  v.check((name) => {
    try {
      new Intl.DateTimeFormat('en', { timeZone: name });
      return true;
    } catch {
      return false;
    }
  }, 'Not a time zone name such as Europe/Berlin.'),
);
const currency = v.pipe(
  v.string(),
  v.regex(/^[A-Z]{3}$/, 'A currency is three capital letters, such as EUR.'),
);
const parameter = v.pipe(
  v.string(),
  v.regex(/^[^\s&=#?]{1,64}$/, 'A parameter name has no space and none of & = # ?'),
);

/** The redirect types that are answered without a page. */
export const redirectStatuses = [301, 302, 307, 308] as const;

/** What a link's hop does; every field left out follows the domain's defaults. */
const hopChoices = v.strictObject({
  status: v.picklist(redirectStatuses, 'The redirect type is 301, 302, 307 or 308.'),
  cache: v.boolean(),
  hideReferrer: v.boolean(),
  pass: v.union([v.picklist(['none', 'all']), v.pipe(v.array(parameter), v.maxLength(50))]),
});

export const relValues = ['sponsored', 'nofollow', 'ugc'] as const;

const marks = v.strictObject({
  rel: v.array(v.picklist(relValues)),
  newTab: v.boolean(),
  title: text(200),
});

/** A domain of the person's own that answers short links. */
const domain = v.strictObject({
  id: id('dom'),
  host,
  prefix: v.pipe(
    v.string(),
    v.maxLength(40),
    v.regex(/^(?:[a-z0-9-]+\/)*$/, 'A prefix is empty or ends with /, such as go/'),
  ),
  zone,
  robots: v.picklist(['keep-away', 'let-in']),
  hop: hopChoices,
  marks,
});

/** What a parameter of a tracking link is for. */
export const roles = ['account', 'program', 'creative', 'slot', 'page', 'other'] as const;

const grammar = v.strictObject({
  version: v.pipe(v.number(), v.integer(), v.minValue(1)),
  hosts: v.pipe(v.array(v.pipe(v.string(), v.maxLength(253))), v.maxLength(20)),
  path: text(200),
  parameters: v.pipe(v.array(v.strictObject({ name: parameter, role: v.picklist(roles) })), v.maxLength(60)),
});

const slot = v.strictObject({
  name: parameter,
  /** Most characters the network keeps. */
  length: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(2000)),
  /** A token that a new link gets here, or nothing. */
  fill: v.picklist(['{click}', '{source}', '']),
});

/** Fernhop's own postback fields. */
export const postbackFields = ['click', 'event', 'status', 'amount', 'currency', 'txn', 'at'] as const;
export const statuses = ['pending', 'approved', 'paid', 'reversed'] as const;

const postback = v.strictObject({
  key: v.pipe(v.string(), v.regex(/^[a-z0-9]{24,64}$/, 'A postback key is 24 to 64 letters and digits.')),
  pixelKey: v.pipe(v.string(), v.regex(/^[a-z0-9]{24,64}$/, 'A pixel key is 24 to 64 letters and digits.')),
  /** The network's own placeholder for each of our fields; fields it does not offer are left out. */
  placeholders: v.partial(v.object(v.entriesFromList(postbackFields, text(80)))),
  /** The name under which each of our fields arrives, where it differs from ours. */
  fields: v.partial(v.object(v.entriesFromList(postbackFields, parameter))),
  /** The network's words for a state, in lower case, and what they mean. */
  statuses: v.record(v.pipe(v.string(), v.maxLength(60)), v.picklist(statuses)),
  /** A new amount replaces the one before, or is added to it. */
  amounts: v.picklist(['replace', 'add']),
});

const network = v.strictObject({
  id: id('net'),
  name: named(80),
  currency,
  zone,
  grammar,
  slots: v.pipe(v.array(slot), v.maxLength(20)),
  postback,
});

const program = v.strictObject({
  id: id('prg'),
  network: id('net'),
  name: named(80),
  /** What the network's program parameter holds for it. */
  code: text(200),
  hosts: v.pipe(v.array(v.pipe(v.string(), v.maxLength(253))), v.maxLength(20)),
  state: v.picklist(['joined', 'pending', 'declined']),
});

const slug = v.pipe(
  v.string(),
  v.rawCheck(({ dataset, addIssue }) => {
    if (!dataset.typed) return;
    const message = slugProblem(dataset.value);
    if (message !== undefined) addIssue({ message });
  }),
  v.toLowerCase(),
);

const link = v.strictObject({
  id: id('lnk'),
  domain: id('dom'),
  slug,
  /** Older slugs that go on answering. */
  aliases: v.pipe(v.array(slug), v.maxLength(200)),
  title: named(200),
  destination: v.pipe(
    v.string(),
    v.maxLength(8000, 'The destination is longer than 8,000 characters.'),
    v.regex(/^https?:\/\/[^/?#\s]/i, 'A destination begins with http:// or https:// and a host.'),
  ),
  /** Pieces in braces that are not tokens of ours and are sent as they stand, such as `{{ad}}`. */
  asText: v.pipe(v.array(text(80)), v.maxLength(20)),
  network: v.optional(id('net')),
  program: v.optional(id('prg')),
  hop: v.partial(hopChoices),
  marks: v.partial(marks),
  notes: text(4000),
  /** Milliseconds since 1970 UTC. */
  createdAt: v.pipe(v.number(), v.integer(), v.minValue(0)),
});

const settings = v.strictObject({
  id: v.literal('settings'),
  currency,
});

/** The schema of every kind of record a person edits. */
export const recordSchemas = { domain, network, program, link, settings } as const;

export type RecordKind = keyof typeof recordSchemas;
export const recordKinds = Object.keys(recordSchemas) as readonly RecordKind[];

export type Domain = v.InferOutput<typeof domain>;
export type Network = v.InferOutput<typeof network>;
export type Program = v.InferOutput<typeof program>;
export type Link = v.InferOutput<typeof link>;
export type Settings = v.InferOutput<typeof settings>;
export type HopChoices = v.InferOutput<typeof hopChoices>;
export type Marks = v.InferOutput<typeof marks>;
export type Grammar = v.InferOutput<typeof grammar>;
export type Slot = v.InferOutput<typeof slot>;
export type Role = (typeof roles)[number];
export type PostbackProfile = v.InferOutput<typeof postback>;
export type PostbackField = (typeof postbackFields)[number];
export type Status = (typeof statuses)[number];
/** The record of each kind. */
export interface RecordOf {
  domain: Domain;
  network: Network;
  program: Program;
  link: Link;
  settings: Settings;
}
