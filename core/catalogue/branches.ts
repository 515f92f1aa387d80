import * as v from 'valibot';
import { clockTime, destination, localDay, localTime, text, zone } from './fields.ts';

export const devices = ['phone', 'tablet', 'desktop'] as const;
export type Device = (typeof devices)[number];

const list = <S extends v.GenericSchema<string, string>>(item: S) =>
  v.pipe(v.array(item), v.minLength(1), v.maxLength(300));

/** What has to hold for a branch; everything given holds at once. */
export const conditions = v.partial(
  v.strictObject({
    /** ISO 3166-1 alpha-2 codes, and groups of countries such as EU. */
    countries: list(
      v.pipe(
        v.string(),
        v.regex(/^[A-Z]{2,8}$/, 'A country is two capital letters, such as DE, or a group such as EU.'),
      ),
    ),
    devices: list(v.picklist(devices)),
    /** Language ranges as in RFC 4647: `de` holds for de-AT too. */
    languages: list(
      v.pipe(
        v.string(),
        v.regex(/^[A-Za-z]{2,8}(?:-[A-Za-z0-9]{1,8})*$/, 'A language is a tag such as de or pt-BR.'),
      ),
    ),
    sources: list(
      v.pipe(
        v.string(),
        v.regex(/^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$/, 'A source is letters, digits, - and _.'),
      ),
    ),
    visitor: v.picklist(['new', 'returning']),
    /** 1 is Monday, 7 is Sunday (ISO 8601). */
    weekdays: v.pipe(
      v.array(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(7))),
      v.minLength(1),
      v.maxLength(7),
    ),
    /** From a time of day until another; past midnight when the second is not later. */
    hours: v.strictObject({ from: clockTime, until: clockTime }),
    /** First and last day, both included. */
    days: v.partial(v.strictObject({ from: localDay, until: localDay })),
    /** Zone of hours, weekdays and days; the domain's when left out. */
    zone,
  }),
);

/** One way a visitor may go besides the link's own destination. */
export const branch = v.strictObject({
  id: v.pipe(
    v.string(),
    v.regex(/^b[a-z0-9]{1,10}$/, 'A branch ID is b and some letters or digits.'),
    // The name of what answers before a link opens.
    v.notValue('before', '"before" is no ID of a branch.'),
  ),
  /** Its name on the screen; empty to be called by its conditions. */
  name: text(80),
  when: conditions,
  destination,
  /** Share among the branches with the very same conditions. */
  weight: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1000)),
});

/** Branches are compared by the visitors of so many days: what they earned is known after some weeks. */
export const branchDays = 90;

/** An ID for a branch beside others: the next number that none of them has. */
export const freshBranchId = (branches: readonly { readonly id: string }[]): string => {
  for (let n = branches.length + 1; ; n++) if (!branches.some(({ id }) => id === `b${n}`)) return `b${n}`;
};

/** What answers while a link is closed. */
export const closedAnswer = v.variant('kind', [
  v.strictObject({
    kind: v.literal('page'),
    words: text(4000),
    /** Ask for a mail address; it is kept with the consent it was given under. */
    askMail: v.boolean(),
    consent: text(1000),
  }),
  v.strictObject({ kind: v.literal('address'), to: destination }),
]);

/** When a link is open, in a zone, and what answers before and after; the domain's answer where none is given. */
export const hours = v.strictObject({
  zone: v.exactOptional(zone),
  from: v.exactOptional(localTime),
  until: v.exactOptional(localTime),
  before: v.exactOptional(closedAnswer),
  after: v.exactOptional(closedAnswer),
});

export type Conditions = v.InferOutput<typeof conditions>;
export type Branch = v.InferOutput<typeof branch>;
export type ClosedAnswer = v.InferOutput<typeof closedAnswer>;
export type Hours = v.InferOutput<typeof hours>;
