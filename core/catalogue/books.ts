import * as v from 'valibot';
import { currency, id, localDay, moment, named, text } from './fields.ts';
import { statuses } from './statuses.ts';

/** Minor units (cents, yen, fils). */
const minor = v.pipe(v.number(), v.safeInteger());
const month = v.pipe(v.string(), v.regex(/^\d{4}-(?:0[1-9]|1[0-2])$/, 'A month looks like 2026-10.'));

/** One conversion as a network's report states it. */
const reportRow = v.strictObject({
  /** What it is known by: its transaction and event, else its content and how often that occurred. */
  key: text(400),
  txn: text(200),
  /** The sub-ID in which a click ID should have come back, as it stands there. */
  click: text(200),
  program: text(200),
  event: text(80),
  status: v.picklist(statuses),
  amount: v.nullable(minor),
  currency,
  at: moment,
  /** The code of a coupon that was used. */
  coupon: v.exactOptional(text(80)),
});

/** Clicks a network counted on one of its days. */
const clickRow = v.strictObject({
  day: localDay,
  /** Program, label or link the count is for, as it stands there; empty for the whole account. */
  label: text(200),
  clicks: v.pipe(v.number(), v.safeInteger(), v.minValue(0)),
});

/** Most rows one record of a report holds; a longer report is several of them. */
export const rowsPerPart = 500;

/** A part of an imported report: the rows in it that were new or had changed. */
export const report = v.strictObject({
  id: id('rep'),
  network: id('net'),
  /** Parts of one import carry the same. */
  batch: named(60),
  /** Name of the file. */
  file: named(200),
  at: moment,
  /** First and last day of the whole file, in the network's zone. */
  from: localDay,
  until: localDay,
  rows: v.pipe(v.array(reportRow), v.maxLength(rowsPerPart)),
  clicks: v.pipe(v.array(clickRow), v.maxLength(rowsPerPart)),
  /** It lists only a part of these days: nothing follows from what it does not list. */
  part: v.exactOptional(v.literal(true)),
  /** Keys of rows of these days that were known before and are listed no longer. */
  gone: v.exactOptional(v.pipe(v.array(text(400)), v.maxLength(rowsPerPart))),
});

export const decisionKinds = ['accept', 'choose', 'write off', 'ask'] as const;

/** What a person decided about one difference. */
export const decision = v.strictObject({
  id: id('dec'),
  /** The difference it settles. */
  case: named(600),
  kind: v.picklist(decisionKinds),
  /** The click that was chosen, where it is one. */
  click: v.exactOptional(text(40)),
  reason: text(500),
  at: moment,
});

const sums = v.record(v.string(), minor);

/** A month that was closed with one network: figures that stay as they were. */
export const closedMonth = v.strictObject({
  id: id('mon'),
  network: id('net'),
  month,
  at: moment,
  /** Conversions counted, by what we heard and by what they report, and money by currency. */
  conversions: v.strictObject({ ours: v.number(), theirs: v.number() }),
  ours: sums,
  theirs: sums,
  /** Each conversion that was part of it, with what it was worth there. */
  rows: v.array(
    v.strictObject({
      /** By what it is known: our conversion's ID, their row's key, or both, whichever side had it then. */
      keys: v.pipe(v.array(named(1000)), v.minLength(1), v.maxLength(2)),
      amount: v.nullable(minor),
      currency,
      counts: v.boolean(),
    }),
  ),
  /** SHA-256 over the figures and rows above, in hex. */
  checksum: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'A checksum has 64 hex digits.')),
});

/** Money that came from a network. */
export const payment = v.strictObject({
  id: id('pay'),
  network: id('net'),
  day: localDay,
  amount: minor,
  currency,
  note: text(500),
});

/** What one unit of a currency was worth in another on a day, by the person's own source. */
export const rate = v.strictObject({
  id: id('rat'),
  from: currency,
  to: currency,
  day: localDay,
  /** Decimal text, such as `0.9231`. */
  rate: v.pipe(v.string(), v.regex(/^\d{1,9}(?:\.\d{1,9})?$/, 'A rate is a decimal number such as 0.9231.')),
  source: named(200),
});

/** What a program pays from a day on, where its postbacks bring no amount. */
export const terms = v.variant('kind', [
  v.strictObject({
    kind: v.literal('fixed'),
    from: localDay,
    /** The kind of event it is paid for; empty for every kind. */
    event: text(80),
    amount: minor,
    currency,
  }),
  v.strictObject({
    kind: v.literal('percent'),
    from: localDay,
    event: text(80),
    /** Hundredths of a percent: 850 is 8.5 %. */
    basisPoints: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(10_000)),
  }),
  v.strictObject({
    kind: v.literal('tiers'),
    from: localDay,
    event: text(80),
    currency,
    /** From the n-th conversion of a month on, counted from 1. */
    steps: v.pipe(
      v.array(v.strictObject({ from: v.pipe(v.number(), v.integer(), v.minValue(1)), amount: minor })),
      v.minLength(1),
      v.maxLength(20),
    ),
  }),
]);

export type ReportRow = v.InferOutput<typeof reportRow>;
export type ClickRow = v.InferOutput<typeof clickRow>;
export type Report = v.InferOutput<typeof report>;
export type Decision = v.InferOutput<typeof decision>;
export type ClosedMonth = v.InferOutput<typeof closedMonth>;
export type Payment = v.InferOutput<typeof payment>;
export type Rate = v.InferOutput<typeof rate>;
export type Terms = v.InferOutput<typeof terms>;
