import { element } from '#core/catalogue';
import type { Segment, VisitColumns } from '#core/visits';
import { segmentRows } from '#core/visits';

/** What requests are told apart by, such as their source or device. */
export interface Dimension {
  /** The numbers of a segment's rows, from which their values follow. */
  readonly column: (segment: Segment) => ArrayLike<number>;
  /** By such a number: the place of its value. */
  readonly codes: Uint32Array;
  /** The values, each once. */
  readonly values: readonly string[];
  /** The value where no more is known than link, source and day, as of requests that were rolled up; empty where that tells nothing. */
  readonly ofLink: (link: string, source: string, day: string) => string;
  /** A value may be several with this between: a condition holds of it where it holds of all or of one of them. */
  readonly separator?: string;
}

/**
 * A dimension of a column.
 *
 * @param length how many different numbers stand in the column
 * @param valueOf the value of each
 * @param ofLink the value where no more is known than link and source
 */
export const dimensionOf = (
  column: Dimension['column'],
  length: number,
  valueOf: (number: number) => string,
  ofLink: Dimension['ofLink'],
): Dimension => {
  const places = new Map<string, number>();
  const codes = Uint32Array.from({ length }, (_, number) => {
    const value = valueOf(number);
    let place = places.get(value);
    if (place === undefined) places.set(value, (place = places.size));
    return place;
  });
  return { column, codes, values: [...places.keys()], ofLink };
};

/** Values that requests must have of a dimension, or must not have. */
export interface Condition<D = Dimension> {
  readonly of: D;
  readonly values: readonly string[];
  readonly not?: boolean | undefined;
}

/** The place of a row's value. */
export const codeAt = ({ column, codes }: Dimension, columns: VisitColumns, row: number): number =>
  element(codes[element(column(columns.segmentOf(row))[row % segmentRows])]);

/** The value of a row. */
export const valueAt = (of: Dimension, columns: VisitColumns, row: number): string =>
  element(of.values[codeAt(of, columns, row)]);

/** What of a condition says whether it holds. */
type HeldCondition = Pick<Condition, 'values' | 'not'> & { readonly of?: Pick<Dimension, 'separator'> };

/** Whether a condition holds of a value. */
export const holdsAt = (
  { of: { separator } = {}, values, not = false }: HeldCondition,
  value: string,
): boolean =>
  (values.includes(value) ||
    (separator !== undefined && value.split(separator).some((one) => values.includes(one)))) !== not;

/** Whether all conditions hold where no more is known than link, source and day. */
export const holdOfLink = (where: readonly Condition[], link: string, source: string, day: string): boolean =>
  where.every((condition) => holdsAt(condition, condition.of.ofLink(link, source, day)));

/** By the numbers of its column: 1 where a condition holds. */
export const holding = (condition: Condition): Uint8Array => {
  const { values, codes } = condition.of;
  const isWanted = values.map((value) => holdsAt(condition, value));
  return Uint8Array.from(codes, (code) => Number(element(isWanted[code])));
};
