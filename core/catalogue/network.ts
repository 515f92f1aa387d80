import * as v from 'valibot';
import { terms } from './books.ts';
import { currency, hosts, id, moment, named, parameter, text, webAddress, zone } from './fields.ts';
import { statuses } from './statuses.ts';

/** What a parameter of a tracking link is for. */
export const roles = ['account', 'program', 'creative', 'slot', 'page', 'other'] as const;

/** How a page is written into a link. */
export const pageCodings = [
  'percent',
  'percent loose',
  'percent lower',
  'percent loose lower',
  'form',
  'percent twice',
  'percent loose twice',
  'base64',
  'base64 escaped',
  'base64 bare',
  'base64url',
  'plain',
] as const;

/** A part of a link by its name, or by its place such as `/2`: see `core/link-parts/places.ts`. */
const partName = v.pipe(
  v.string(),
  v.regex(/^[^\s&=?]{1,80}$/, 'A part is a parameter’s name, or a place such as /2.'),
);

const linkFormat = v.strictObject({
  version: v.pipe(v.number(), v.integer(), v.minValue(1)),
  /** Hosts of its links; `*` stands for a label that varies. */
  hosts,
  /** Path of its links; `*` stands for what varies between slashes, and at the end, as `**`, for any rest. */
  path: text(400),
  parameters: v.pipe(
    v.array(
      v.strictObject({
        name: partName,
        role: v.picklist(roles),
        /** What it is in every sample, where it is always the same. */
        value: v.exactOptional(text(500)),
        /** Of a page: each coding that writes it as the samples have it. */
        codings: v.exactOptional(v.pipe(v.array(v.picklist(pageCodings)), v.maxLength(pageCodings.length))),
      }),
    ),
    v.maxLength(60),
  ),
  /** One of its links, as it was pasted, with a page in it where one is known: a deep link is written after it. */
  sample: v.exactOptional(text(4000)),
});

/** What a sub-ID slot takes. */
export const allowedCharacters = ['any', 'word', 'alphanumeric', 'digits'] as const;

const slot = v.strictObject({
  name: partName,
  /** Most characters the network keeps. */
  length: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(2000)),
  /** A token that a new link gets here, or nothing. */
  fill: v.picklist(['{click}', '{source}', '']),
  allowed: v.optional(v.picklist(allowedCharacters), 'any'),
  /** The merchant sees it too, not the network alone. */
  merchant: v.optional(v.boolean(), false),
});

/** Fernhop's own postback fields. */
export const postbackFields = ['click', 'event', 'status', 'amount', 'currency', 'txn', 'at'] as const;

const postbackKey = v.pipe(
  v.string(),
  v.regex(/^[a-z0-9]{24,64}$/, 'A postback key is 24 to 64 letters and digits.'),
);

const postback = v.strictObject({
  key: postbackKey,
  pixelKey: v.pipe(v.string(), v.regex(/^[a-z0-9]{24,64}$/, 'A pixel key is 24 to 64 letters and digits.')),
  /** The key before this one, still good until a moment. */
  previousKey: v.exactOptional(v.strictObject({ key: postbackKey, until: moment })),
  /** For what an address is set at the network: an empty text is the whole account, else a program's ID. */
  setFor: v.exactOptional(v.pipe(v.array(text(60)), v.maxLength(200))),
  /** Addresses and networks from which it sends, such as `192.0.2.10` or `198.51.100.0/24`; none for any. */
  senders: v.exactOptional(
    v.pipe(
      v.array(
        v.pipe(
          v.string(),
          v.regex(
            /^(?:\d{1,3}(?:\.\d{1,3}){3}(?:\/(?:\d|[12]\d|3[0-2]))?|(?=.*:)[0-9a-f:.]{2,45}(?:\/(?:\d{1,2}|1[01]\d|12[0-8]))?)$/i,
            'A sender is an address such as 192.0.2.10, or a network such as 198.51.100.0/24.',
          ),
        ),
      ),
      v.maxLength(100),
    ),
  ),
  /** It signs what it sends: the parameter that holds the HMAC-SHA-256 of the rest, and the secret it shares with us. */
  signature: v.exactOptional(
    v.strictObject({
      parameter,
      secret: named(200),
      /** What it signs holds the time at which it was sent; one that is further off is doubted. */
      time: v.exactOptional(
        v.strictObject({
          parameter,
          windowSeconds: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(604_800)),
        }),
      ),
    }),
  ),
  /** The network's own placeholder for each of our fields; fields it does not offer are left out. */
  placeholders: v.partial(v.object(v.entriesFromList(postbackFields, text(80)))),
  /** The name under which each of our fields arrives, where it differs from ours. */
  fields: v.partial(v.object(v.entriesFromList(postbackFields, parameter))),
  /** The network's words for a state, in lower case, and what they mean. */
  statuses: v.record(v.pipe(v.string(), v.maxLength(60)), v.picklist(statuses)),
  /** The sign before the decimals of amounts that are no plain decimal number, such as `12,34` or `€1.234,56`. */
  decimal: v.exactOptional(v.picklist(['.', ','])),
  /** The network's words for a currency, in lower case, and the code they mean. */
  currencies: v.exactOptional(v.record(v.pipe(v.string(), v.maxLength(60)), currency)),
  /** Transactions that differ by case only are two. */
  caseMatters: v.exactOptional(v.literal(true)),
  /** A new amount replaces the one before, or is added to it. */
  amounts: v.picklist(['replace', 'add']),
  /** Events that come again and again under one transaction, such as renewals: each time is a conversion of its own. */
  recurs: v.exactOptional(v.pipe(v.array(named(80)), v.maxLength(20))),
});

/** What a column of a report can hold. */
export const reportRoles = [
  'txn',
  'click',
  'program',
  'event',
  'status',
  'amount',
  'currency',
  'at',
  'time',
  'clicks',
  'label',
  'coupon',
  'nothing',
] as const;
export const dateOrders = ['ymd', 'dmy', 'mdy'] as const;

export const orderKinds = ['items', 'newest'] as const;
export const twinKinds = ['each', 'once'] as const;

/** A piece of a value: by which sign it is cut, and which piece it is, from 0, counted from one end. */
const clickPlace = v.strictObject({
  by: v.pipe(v.string(), v.minLength(1), v.maxLength(5)),
  from: v.picklist(['start', 'end']),
  at: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(9)),
});

const reportProfile = v.strictObject({
  /** Role of each column, by its heading. */
  columns: v.record(text(200), v.picklist(reportRoles)),
  dates: v.picklist(dateOrders),
  /** The sign before the decimals of an amount. */
  decimal: v.picklist(['.', ',']),
  zone,
  /** What several rows of one order are: its items, added up, or its states, of which the newest counts. */
  orders: v.exactOptional(v.picklist(orderKinds)),
  /** Whether rows that are the same letter for letter count each, or once. */
  twins: v.exactOptional(v.picklist(twinKinds)),
  /** Where the click ID stands in a longer value. */
  clickPlace: v.exactOptional(clickPlace),
  /** Days written as numbers count from 1904, not from 1900. */
  since1904: v.exactOptional(v.boolean()),
});

/** What of a postback profile nobody else may know. */
export const postbackSecrets = ['key', 'pixelKey', 'previousKey', 'signature'] as const;

export const network = v.strictObject({
  id: id('net'),
  name: named(80),
  currency,
  zone,
  linkFormat,
  /** The link formats before this one, newest first. */
  earlierLinkFormats: v.exactOptional(v.pipe(v.array(linkFormat), v.maxLength(20))),
  slots: v.pipe(v.array(slot), v.maxLength(20)),
  postback,
  /** For how many days after a click its sales are credited. */
  cookieDays: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(3650))),
  /** When it pays what it approved of a month: so many days after the month's end, once there is so much of its currency. */
  pays: v.exactOptional(
    v.strictObject({
      days: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730)),
      from: v.pipe(v.number(), v.safeInteger(), v.minValue(0)),
    }),
  ),
  /** How its reports were read last, so that the next one needs no asking. */
  report: v.exactOptional(reportProfile),
});

/** A network without what nobody else may know, for a file that may be handed on. */
export const openNetwork = v.strictObject({
  ...network.entries,
  postback: v.omit(postback, postbackSecrets),
});

/** What a merchant asks of those who link to it. */
const rules = v.strictObject({
  /** False where a link of our own may not stand between. */
  cloak: v.boolean(),
  /** Words that must be visible in the linked text; empty for none. */
  name: text(80),
  /** Only short links of the merchant's own. */
  ownLinks: v.boolean(),
  /** Hosts of these short links: by them such a link is known to be the program's. */
  shortHosts: v.exactOptional(hosts),
  mail: v.boolean(),
  social: v.boolean(),
  /** A sentence that has to stand with its links, besides the usual disclosure. */
  disclosure: v.exactOptional(named(300)),
});

export const programStates = ['joined', 'pending', 'declined', 'not joined'] as const;

export const program = v.strictObject({
  id: id('prg'),
  network: id('net'),
  name: named(80),
  /** What the network's program parameter holds for it. */
  code: text(200),
  hosts,
  state: v.picklist(programStates),
  /** Address where one applies for it. */
  apply: v.exactOptional(webAddress(500, 'The page where one applies')),
  rules: v.exactOptional(rules),
  /** Labels that its links carry in sub-ID slots, by the slot's name. */
  labels: v.exactOptional(v.record(partName, text(200))),
  /** The account tag its links get. */
  tag: v.exactOptional(text(200)),
  /** Parameters of the shop's own to take away from its pages, and some to leave that would be taken away. */
  strip: v.exactOptional(v.pipe(v.array(parameter), v.maxLength(50))),
  keep: v.exactOptional(v.pipe(v.array(parameter), v.maxLength(50))),
  /** What it pays, by the day from which that holds. */
  terms: v.exactOptional(v.pipe(v.array(terms), v.maxLength(50))),
});

/** An account tag at a network: who or which site is credited by it. */
export const account = v.strictObject({
  id: id('acc'),
  network: id('net'),
  tag: named(200),
  owner: named(80),
});

export type Network = v.InferOutput<typeof network>;
export type Program = v.InferOutput<typeof program>;
export type ProgramRules = v.InferOutput<typeof rules>;
export type Account = v.InferOutput<typeof account>;
export type LinkFormat = v.InferOutput<typeof linkFormat>;
export type Slot = v.InferOutput<typeof slot>;
export type Role = (typeof roles)[number];
export type PageCoding = (typeof pageCodings)[number];
export type ReportProfile = v.InferOutput<typeof reportProfile>;
export type ReportRole = (typeof reportRoles)[number];
export type DateOrder = (typeof dateOrders)[number];
export type ClickPlace = v.InferOutput<typeof clickPlace>;
export type PostbackProfile = v.InferOutput<typeof postback>;
export type PostbackSecrets = Pick<PostbackProfile, (typeof postbackSecrets)[number]>;
export type OpenNetwork = v.InferOutput<typeof openNetwork>;
export type PostbackField = (typeof postbackFields)[number];
