import * as v from 'valibot';
import { currency, id, localDay, named, text } from './fields.ts';
import { sourceName } from './products.ts';

const decimal = v.pipe(
  v.string(),
  v.regex(
    /^\d{1,7}(?:\.\d{1,9})?$/,
    'A cost is a number such as 310 or 0.045, without a sign: what you were paid is no cost.',
  ),
  v.check((amount) => !/^[0.]+$/.test(amount), 'A cost is more than nothing.'),
);
const namedSource = v.pipe(sourceName, v.minLength(1, 'A source has a name in addresses.'));

/** What visits were paid for: those of a source, of one of its placements, of a link, or of a promotion. */
const paidFor = v.variant('kind', [
  v.strictObject({ kind: v.literal('source'), source: namedSource }),
  v.strictObject({ kind: v.literal('placement'), source: namedSource, placement: named(200) }),
  v.strictObject({ kind: v.literal('link'), link: id('lnk') }),
  v.strictObject({ kind: v.literal('promotion'), promotion: id('prm') }),
]);

export const costBases = ['click', 'thousand', 'day', 'all', 'share'] as const;

/** What was paid for visits. */
export const cost = v.pipe(
  v.strictObject({
    id: id('cst'),
    of: paidFor,
    /** What the amount is for: one click, a thousand of them, a day, all of it together, or a hundred of the commission. */
    per: v.picklist(costBases),
    /** Decimal text in units of the currency, such as `0.045`; of a share its percents. */
    amount: decimal,
    /** Of a share it says nothing: that is of what was earned. */
    currency,
    /** First and last day in the person's own zone; without a last one it goes on. */
    from: localDay,
    until: v.exactOptional(localDay),
    /** The seller bills every request but tests, machines and repeats too; counted visits only where this is left out. */
    billsAll: v.exactOptional(v.literal(true)),
    note: text(500),
    /** By what a row of a file is known, so that the same file twice brings it once. */
    row: v.exactOptional(named(60)),
  }),
  v.forward(
    v.check(
      ({ from, until }) => until === undefined || from <= until,
      'Its last day lies before its first. Change one of them.',
    ),
    ['until'],
  ),
  v.forward(
    v.check(({ per, amount }) => per !== 'share' || Number(amount) <= 100, 'A share is at most 100 %.'),
    ['amount'],
  ),
);

export type Cost = v.InferOutput<typeof cost>;
export type CostBasis = (typeof costBases)[number];
