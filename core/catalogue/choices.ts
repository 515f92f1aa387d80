import * as v from 'valibot';
import { currency, id, localDay, named, text } from './fields.ts';

const choicesMade = ['cut', 'scale', 'go on'] as const;

/** Money in minor units with its fraction, as figures have it. */
const amount = v.pipe(v.number(), v.finite());

/** What a person decided about a row of what pays, and what was known of it then. */
export const choice = v.strictObject({
  id: id('chc'),
  /** The day on which it was decided, in the person's own zone. */
  day: localDay,
  made: v.picklist(choicesMade),
  /** What rows were told apart by, the value of this one, and its name as it stood on the screen. */
  by: named(40),
  value: text(4096),
  name: named(4096),
  /** What was asked besides. */
  where: v.pipe(
    v.array(
      v.strictObject({
        of: named(40),
        values: v.pipe(v.array(text(4096)), v.maxLength(300)),
        not: v.exactOptional(v.literal(true)),
      }),
    ),
    v.maxLength(30),
  ),
  from: localDay,
  to: localDay,
  currency,
  /** What it came to until then, in minor units. */
  visitors: v.pipe(v.number(), v.integer(), v.minValue(0)),
  cost: amount,
  profit: amount,
  /** What a visitor left at worst and at best; left out where that was not known. */
  band: v.exactOptional(v.strictObject({ low: amount, high: amount })),
  note: text(500),
});

export type Choice = v.InferOutput<typeof choice>;
