import { dateParts, exponentOf, inferDecimal, isNumericDate, readReportAmount } from '#core/values';
import type { DateKind, MoneyKind } from './reportHeadings.ts';
import { dateKind, isNoMoney, isOwnShare, moneyKind, speaksOfDate } from './reportHeadings.ts';

/** Which column holds something, or those of which a person has to say it. Columns are by their place, from 0. */
export interface ChosenColumn {
  readonly column: number | undefined;
  /** More than none where a person has to choose. */
  readonly candidates: readonly number[];
  /** Why columns were taken or not, in a few words each. */
  readonly why: ReadonlyMap<number, string>;
}

interface MoneyColumn {
  readonly index: number;
  readonly heading: string;
  readonly kind: MoneyKind | undefined;
  readonly cells: readonly string[];
  /** Its cells as numbers of minor units, or of percent; undefined where one is none. */
  readonly numbers: readonly (number | undefined)[];
}

/** So much of a column has to be money for it to be one of money. */
const mostly = 0.8;
/** So many of the rows in which a product can be computed have to show it. */
const nearlyAll = 0.95;
/** Fewer rows prove no arithmetic: two numbers may fit by chance. */
const enoughRows = 3;

/** Amounts are compared in the parts of the currency with the most decimals, whatever theirs is. */
const finest = 'UYW';
const places = exponentOf(finest);

const numbersOf = (
  cells: readonly string[],
  kind: MoneyKind | undefined,
  usual: '.' | ',',
): (number | undefined)[] => {
  const decimal = inferDecimal(cells) ?? usual;
  return cells.map((cell) => {
    if (cell.trim() === '') return undefined;
    if (kind !== 'rate') return readReportAmount(cell, decimal, finest);
    // A rate may have more decimals than money.
    const rate = Number(cell.replace('%', '').trim().replace(decimal, '.'));
    return Number.isNaN(rate) ? undefined : rate;
  });
};

/** The sign before the decimals of all amounts of a file together, where one column of them leaves it open. */
export const decimalOf = (
  header: readonly string[],
  columns: readonly (readonly string[])[],
): '.' | ',' | undefined =>
  inferDecimal(
    header.flatMap((heading, i) => {
      const kind = moneyKind(heading);
      return kind === undefined || kind === 'rate' ? [] : (columns[i] ?? []);
    }),
  );

/** The smallest step between amounts of a column: that of the decimals they are written with. */
const stepOf = (cells: readonly string[], usual: '.' | ','): number => {
  const decimal = inferDecimal(cells) ?? usual;
  const decimals = cells.map((cell) => /^\d*/.exec(cell.split(decimal)[1] ?? '')?.[0].length ?? 0);
  return 10 ** (places - Math.min(3, Math.max(0, ...decimals)));
};

const isSame = (a: readonly string[], b: readonly string[]): boolean => a.every((cell, i) => cell === b[i]);

/** True where one column is the product of an order value and a rate, in nearly every row that has all three. */
const isProduct = (
  commission: MoneyColumn,
  value: MoneyColumn,
  rate: MoneyColumn,
  usual: '.' | ',',
): boolean => {
  let rows = 0;
  let fitting = 0;
  const seen = new Set<number>();
  const step = stepOf(commission.cells, usual);
  for (const [i, worth] of value.numbers.entries()) {
    const [of, found] = [rate.numbers[i], commission.numbers[i]];
    if (worth === undefined || of === undefined || found === undefined || worth === 0 || of === 0) continue;
    rows += 1;
    seen.add(worth);
    // Rates are written as percent, or as a part of one.
    if ([of / 100, of].some((part) => Math.abs(worth * part - found) <= step * 1.01)) fitting += 1;
  }
  return seen.size >= enoughRows && fitting >= rows * nearlyAll;
};

/**
 * Finds the column of the commission. The most specific heading decides, and the arithmetic of the cells: what is order value
 * times rate is the commission. Being the smaller number proves nothing. Where two qualify, or none, a person is asked.
 *
 * @param columns the cells of each column, of rows from all over the file
 */
export const commissionColumn = (
  header: readonly string[],
  columns: readonly (readonly string[])[],
): ChosenColumn => {
  const why = new Map<number, string>();
  const usual = decimalOf(header, columns) ?? '.';
  const money = header.flatMap((heading, index): MoneyColumn[] => {
    const kind = moneyKind(heading);
    const cells = columns[index] ?? [];
    const filled = cells.filter((cell) => cell.trim() !== '').length;
    const numbers = numbersOf(cells, kind, usual);
    const read = numbers.filter((number) => number !== undefined).length;
    const isMoney = filled > 0 && read >= filled * mostly;
    // Without a heading that speaks of money only decimals or a sign of a currency do.
    const shows = cells.some((cell) => /\d[.,]\d{2,3}\b|\p{Sc}/u.test(cell));
    // What is called a sale alone may be its number.
    const isNamed =
      kind !== undefined &&
      (filled === 0 ||
        (isMoney && (shows || !/^\s*sales?\s*$/i.test(heading))) ||
        // What is called a commission and cannot be read is refused row by row, not left out.
        (kind === 'commission' && !isDated(cells)));
    return isNamed || (isMoney && shows && kind === undefined && !isNoMoney(heading) && !isDated(cells))
      ? [{ index, heading, kind, cells, numbers }]
      : [];
  });
  const ofKind = (kind: MoneyKind | undefined) => money.filter((column) => column.kind === kind);
  for (const column of money)
    if (column.kind !== undefined && column.kind !== 'commission' && column.kind !== 'amount')
      why.set(column.index, `${column.kind}: not the commission`);

  const products = money.filter(
    (column) =>
      column.kind !== 'rate' &&
      column.kind !== 'fee' &&
      ofKind('rate').some((rate) =>
        money.some(
          (value) =>
            value !== column &&
            (value.kind === 'order value' || value.kind === 'amount' || value.kind === undefined) &&
            isProduct(column, value, rate, usual),
        ),
      ),
  );
  const choose = (column: MoneyColumn, because: string): ChosenColumn => {
    why.set(column.index, because);
    return { column: column.index, candidates: [], why };
  };
  const ask = (candidates: readonly MoneyColumn[]): ChosenColumn => ({
    column: undefined,
    candidates: candidates.map(({ index }) => index),
    why,
  });
  /** One of several that say the same in every row is as good as the other. */
  const distinct = (list: readonly MoneyColumn[]) =>
    list.filter((column, i) => !list.slice(0, i).some((before) => isSame(before.cells, column.cells)));

  const named = distinct(ofKind('commission'));
  const own = named.filter(({ heading }) => isOwnShare(heading));
  const [strong, ...otherStrong] = own.length === 1 ? own : named;
  const [product, ...otherProducts] = distinct(products);
  if (product && otherProducts.length === 0) {
    // A heading that says otherwise than the arithmetic leaves it open.
    if (named.length > 0 && !named.some((column) => isSame(column.cells, product.cells)))
      return ask([...named, product]);
    return choose(product, 'order value × rate');
  }
  if (strong && otherStrong.length === 0) return choose(strong, 'called so');
  if (named.length > 1) return ask(named);
  const open = [...ofKind('amount'), ...ofKind(undefined)];
  const [only, ...others] = distinct(open);
  if (only?.kind === 'amount' && others.length === 0 && money.length === open.length)
    return choose(only, 'the only amount');
  const asked = [...open, ...ofKind('order value'), ...ofKind('fee')];
  return ask(asked);
};

const isDated = (cells: readonly string[]): boolean => {
  const filled = cells.filter((cell) => cell.trim() !== '');
  return (
    filled.length > 0 && filled.filter((cell) => dateParts(cell) !== undefined).length > filled.length / 2
  );
};

const isNumbered = (cells: readonly string[]): boolean => {
  const filled = cells.filter((cell) => cell.trim() !== '');
  return filled.length > 0 && filled.every(isNumericDate);
};

const ranks: Readonly<Record<DateKind, number>> = { conversion: 0, date: 1, other: 2 };

/**
 * Finds the column of the conversions' own dates. One of the click, of approval or of payment is none, unless a person says so.
 *
 * @param columns the cells of each column, of rows from all over the file
 */
export const dateColumn = (
  header: readonly string[],
  columns: readonly (readonly string[])[],
): ChosenColumn => {
  const why = new Map<number, string>();
  const dated = header.flatMap((heading, index) => {
    const cells = columns[index] ?? [];
    // A number is a date only where the heading says so.
    const isDate = isDated(cells) || (speaksOfDate(heading) && isNumbered(cells));
    return isDate ? [{ index, kind: dateKind(heading), cells }] : [];
  });
  for (const { index, kind } of dated) if (kind === 'other') why.set(index, 'date of something else');
  const best = Math.min(...dated.map(({ kind }) => ranks[kind]));
  const fitting = dated.filter(({ kind }) => ranks[kind] === best);
  const distinct = fitting.filter(
    ({ cells }, i) => !fitting.slice(0, i).some((before) => isSame(before.cells, cells)),
  );
  const [only, ...others] = distinct;
  if (only && others.length === 0 && only.kind !== 'other')
    return { column: only.index, candidates: [], why };
  return { column: undefined, candidates: distinct.map(({ index }) => index), why };
};
