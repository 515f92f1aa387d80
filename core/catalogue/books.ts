import * as v from 'valibot';
import { currency, id, localDay, moment, named, text } from './fields.ts';
import { keptSeal } from './seal.ts';
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
  /** Line in the file, from 1; of several that were added up the first. */
  line: v.exactOptional(v.pipe(v.number(), v.safeInteger(), v.minValue(1))),
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

export const claimAnswers = ['accepted', 'refused', 'in part'] as const;

/** What a network answered to what it was asked. */
const claimAnswer = v.strictObject({
  kind: v.picklist(claimAnswers),
  /** What it accepted of the money claimed, where that is a part. */
  amount: v.exactOptional(minor),
  /** Their reason. */
  reason: text(500),
  at: moment,
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
  /** Of one that was asked: what the network answered. */
  answer: v.exactOptional(claimAnswer),
});

const sums = v.record(v.string(), minor);
const money = v.strictObject({ currency, minor });
const whole = v.pipe(v.number(), v.safeInteger());

/** A bridge of the balance as it stood: ours + pieces + unexplained = theirs. */
const closedBridge = v.strictObject({
  ours: whole,
  theirs: whole,
  unexplained: whole,
  /** False where no report said anything of it. */
  reported: v.boolean(),
  pieces: v.array(v.strictObject({ cause: named(60), value: whole, count: whole })),
});

/** By what a conversion is known: our conversion's ID, their row's key, or both, whichever side had it then. */
const keys = v.pipe(v.array(named(1000)), v.minLength(1), v.maxLength(2));

/** The account tag of who earned it, as its link's address had it then: a link that is given to another later moves no month. */
const accountTag = v.exactOptional(text(8000));

/** What changed of a conversion of an earlier closed month and counts in this one. */
const adjusted = v.strictObject({
  month,
  keys,
  currency,
  /** What it adds to that month's worth, and to what the network approved of it. */
  change: minor,
  approved: minor,
  tag: accountTag,
});

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
      keys,
      amount: v.nullable(minor),
      currency,
      counts: v.boolean(),
      /** What the network had approved of it, where that is not nothing. */
      approved: v.exactOptional(minor),
      tag: accountTag,
    }),
  ),
  /** The whole balance, as it was shown. */
  shown: v.exactOptional(
    v.strictObject({
      clicks: closedBridge,
      conversions: closedBridge,
      commission: v.array(v.strictObject({ currency, bridge: closedBridge })),
      /** First and last day their reports covered; empty texts where none did. */
      covered: v.strictObject({ from: text(10), until: text(10) }),
      /** What still waited to be settled. */
      waiting: v.array(v.strictObject({ kind: named(60), count: whole, worth: v.array(money) })),
    }),
  ),
  /** Changes of months closed before that arrived in this one. */
  adjusted: v.exactOptional(v.array(adjusted)),
  /** The journal's seal when it was closed: what the figures rest on. */
  seal: v.exactOptional(keptSeal),
  /** SHA-256 over the record, in hex: docs/reconcile.md has the recipe. */
  checksum: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'A checksum has 64 hex digits.')),
});

const rateText = v.pipe(
  v.string(),
  v.regex(/^\d{1,9}(?:\.\d{1,9})?$/, 'A rate is a decimal number such as 0.9231.'),
);

/** Money that came from a network. */
export const payment = v.strictObject({
  id: id('pay'),
  network: id('net'),
  day: localDay,
  /** What arrived, in the currency in which it arrived. */
  amount: minor,
  currency,
  note: text(500),
  /** What somebody took off on the way: the network paid so much more than arrived. */
  fee: v.exactOptional(v.pipe(minor, v.minValue(1))),
  /** What it settles is of another currency, and so much of that is one of its own, by the rate of its day. */
  settles: v.exactOptional(v.strictObject({ currency, rate: rateText })),
  /** The months it is for; where it says none, the oldest that is owed comes first. */
  months: v.exactOptional(v.pipe(v.array(month), v.minLength(1), v.maxLength(60))),
  /** By what a row of a bank's file is known, so that the same file twice brings it once. */
  bankRow: v.exactOptional(named(60)),
});

/** What one unit of a currency was worth in another on a day, by the person's own source. */
export const rate = v.strictObject({
  id: id('rat'),
  from: currency,
  to: currency,
  day: localDay,
  /** Decimal text, such as `0.9231`. */
  rate: rateText,
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
export type ClaimAnswer = v.InferOutput<typeof claimAnswer>;
export type Decision = v.InferOutput<typeof decision>;
export type ClosedMonth = v.InferOutput<typeof closedMonth>;
export type Payment = v.InferOutput<typeof payment>;
export type Rate = v.InferOutput<typeof rate>;
export type Terms = v.InferOutput<typeof terms>;
