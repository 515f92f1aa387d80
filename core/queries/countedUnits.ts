import { pushTo } from '#core/catalogue';
import type { Conversion } from '#core/conversions';
import type { Unit } from '#core/reconcile';
import type { Dataset } from './dataset.ts';

/** A conversion that counts for what links earned, with the unit it belongs to. */
export type CountedUnit = Unit & { readonly conversion: Conversion };

/** Units with a postback, by the link and by the row of their click. */
export interface CountedUnits {
  readonly byLink: ReadonlyMap<string, readonly CountedUnit[]>;
  readonly byRow: ReadonlyMap<number, readonly CountedUnit[]>;
}

const made = new WeakMap<readonly Unit[], CountedUnits>();

/**
 * What links earned by what we heard: a conversion that is not verified counts only once a person accepted it, and one
 * that was sent twice counts once. One pass over what was reconciled, whoever asks.
 */
export const countedUnits = ({ reconciled: { units } }: Dataset): CountedUnits => {
  const known = made.get(units);
  if (known) return known;
  const byLink = new Map<string, CountedUnit[]>();
  const byRow = new Map<number, CountedUnit[]>();
  for (const unit of units) {
    const { conversion } = unit;
    const unverified = conversion?.unverified !== undefined && !conversion.trusted;
    if (!conversion || unverified || unit.link === '' || unit.cause === 'sent twice') continue;
    pushTo(byLink, unit.link, { ...unit, conversion });
    pushTo(byRow, unit.match.row, { ...unit, conversion });
  }
  const found = { byLink, byRow };
  made.set(units, found);
  return found;
};

/** The conversion with the amount that the program's terms give it, where its postback brought none. */
export const pricedConversion = ({ conversion, ours }: CountedUnit): Conversion =>
  ours?.priced ? { ...conversion, amount: ours.amount, currency: ours.currency } : conversion;
