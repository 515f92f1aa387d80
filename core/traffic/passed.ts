import type { SourceRecord } from '#core/catalogue';
import { element } from '#core/catalogue';
import type { Sum } from '#core/values';
import { exponentOf } from '#core/values';
import type { Segment, VisitColumns } from '#core/visits';
import { pairsOf } from './pairs.ts';

/** In which parameters the seller of a source's visits passes along what it knows of each. */
export type Passes = NonNullable<SourceRecord['passes']>;

/** What of it requests are told apart by. */
export const passedRoles = ['placement', 'keyword', 'creative'] as const;
export type PassedRole = (typeof passedRoles)[number];

/** By the name of a source as it was sent: what its seller passes along; undefined where nobody said. */
export type PassesOf = (source: string) => Passes | undefined;

/** The first value of a parameter in a query, without the spaces around it; empty where it is not there. */
export const passedValue = (query: string, parameter: string): string =>
  query === '' ? '' : (new URLSearchParams(query).get(parameter) ?? '').trim();

/** What a currency's unit has of the parts in which costs are counted: sellers name prices of a click below a cent. */
const partsPerUnit = 1e9;

/**
 * A price in billionths of a currency's unit, from what a seller passes along: digits with a point, or with a comma that can be
 * nothing but a decimal one. Undefined for whatever else.
 */
export const readPassedCost = (text: string): number | undefined => {
  const [, whole = '', sign, decimals = ''] = /^(\d{1,6})(?:([.,])(\d{1,18}))?$/.exec(text) ?? [];
  // Three digits behind a comma may be thousands, but no thousand begins with a nought.
  if (whole === '' || (sign === ',' && decimals.length === 3 && !/^0+$/.test(whole))) return undefined;
  const shortened = decimals.slice(0, 9).padEnd(9, '0');
  const next = Number(decimals.charAt(9) >= '5');
  return Number(whole) * partsPerUnit + Number(shortened) + next;
};

/** Pairs of source and query, as every value that is passed along follows from both. */
export const sourceQueries = (columns: VisitColumns) =>
  pairsOf(
    columns,
    'source query',
    (segment) => segment.source,
    (segment) => segment.query,
  );

/** What each request cost by what its seller passed along. */
export interface PassedCosts {
  readonly column: (segment: Segment) => ArrayLike<number>;
  readonly currencies: readonly string[];
  /** By the number in the column: billionths of a unit, nought where no cost was passed along, and NaN where it cannot be read. */
  readonly costs: Float64Array;
  /** By the number in the column: the place of its currency. */
  readonly currencyPlaces: Uint8Array;
}

/** What requests cost; undefined where no source passes a cost along. */
export const passedCosts = (columns: VisitColumns, passesOf: PassesOf): PassedCosts | undefined => {
  const { source, query } = columns.dictionaries;
  const bySource = source.texts.map((name) => passesOf(name)?.cost);
  const currencies = [...new Set(bySource.flatMap((cost) => cost?.currency ?? []))];
  if (currencies.length === 0) return undefined;
  const { column, firsts, seconds } = sourceQueries(columns);
  const costs = new Float64Array(firsts.length);
  const currencyPlaces = new Uint8Array(firsts.length);
  for (const [pair, place] of firsts.entries()) {
    const cost = bySource[place];
    if (!cost) continue;
    const text = passedValue(element(query.texts[element(seconds[pair])]), cost.parameter);
    if (text === '') continue;
    costs[pair] = readPassedCost(text) ?? NaN;
    currencyPlaces[pair] = currencies.indexOf(cost.currency);
  }
  return { column, currencies, costs, currencyPlaces };
};

/** Billionths of units, by the place of their currency, as sums in minor units; each is rounded once. */
export const sumsOfParts = (parts: ArrayLike<number>, currencies: readonly string[]): Sum[] =>
  currencies.flatMap((currency, i) => {
    const minor = Math.round(((parts[i] ?? 0) / partsPerUnit) * 10 ** exponentOf(currency));
    return (parts[i] ?? 0) > 0 ? [{ currency, minor }] : [];
  });
