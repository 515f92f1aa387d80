import type { Promotion } from '#core/catalogue';
import { element, promotionSeparator } from '#core/catalogue';
import { dayName, dayNumber, momentOf } from '#core/hop';
import type { Segment, VisitColumns } from '#core/visits';
import type { Dimension } from './dimension.ts';
import { dimensionOf } from './dimension.ts';

export interface PromotionInput {
  readonly columns: VisitColumns;
  readonly promotions?: readonly Promotion[];
  /** IANA zone of the person's own days. */
  readonly zone: string;
  readonly sourceOf: (name: string) => string;
}

/** A page without what stands after `?` and `#`, and without a slash at its end. */
const plainPage = (page: string): string => page.replace(/[?#].*$/s, '').replace(/\/$/, '');

/** When a promotion begins and ends, in milliseconds since 1970 UTC. */
interface Span {
  readonly place: number;
  readonly from: number;
  readonly until: number;
}

const spanOf = ({ from, until }: Promotion, place: number, zone: string): Span => ({
  place,
  from: momentOf(zone, `${from}T00:00`),
  until: until === undefined ? Infinity : momentOf(zone, `${dayName(dayNumber(until) + 1)}T00:00`),
});

/** Finds the promotions that take a text, of those that take something of its kind. */
const takers = (
  promotions: readonly Promotion[],
  spans: readonly Span[],
  takes: (taken: Promotion['takes'][number], text: string) => boolean,
): ((text: string) => readonly Span[] | undefined) => {
  const known = new Map<string, readonly Span[] | undefined>();
  return (text) => {
    if (!known.has(text)) {
      const found = spans.filter(({ place }) =>
        element(promotions[place]).takes.some((one) => takes(one, text)),
      );
      known.set(text, found.length > 0 ? found : undefined);
    }
    return known.get(text);
  };
};

/**
 * The promotions that requests belong to by their source, link or page and the day on which they came: IDs in the order of their first
 * days, several of them with the separator between.
 */
export const byPromotion = ({ columns, promotions = [], zone, sourceOf }: PromotionInput): Dimension => {
  if (promotions.length === 0)
    return dimensionOf(
      ({ flags }) => flags,
      256,
      () => '',
      () => '',
    );
  const sorted = promotions.toSorted((a, b) =>
    a.from === b.from ? (a.id < b.id ? -1 : 1) : a.from < b.from ? -1 : 1,
  );
  const spans = sorted.map((promotion, place) => spanOf(promotion, place, zone));
  const bySource = takers(sorted, spans, (one, source) =>
    one.kind === 'source'
      ? sourceOf(one.source) === source
      : one.kind === 'sources' && source !== '' && source.startsWith(one.begins),
  );
  const byLink = takers(sorted, spans, (one, link) => one.kind === 'link' && one.link === link);
  const byPage = takers(sorted, spans, (one, page) => one.kind === 'page' && plainPage(one.page) === page);

  const values: string[] = [''];
  const places = new Map<string, number>([['', 0]]);
  const placeOf = (lists: readonly (readonly Span[] | undefined)[], at: number): number => {
    const found = new Set<number>();
    for (const list of lists)
      for (const { place, from, until } of list ?? []) if (from <= at && at < until) found.add(place);
    if (found.size === 0) return 0;
    const value = [...found]
      .sort((a, b) => a - b)
      .map((place) => element(sorted[place]).id)
      .join(promotionSeparator);
    let known = places.get(value);
    if (known === undefined) {
      places.set(value, (known = values.length));
      values.push(value);
    }
    return known;
  };

  const { source, link, from: page } = columns.dictionaries;
  const ofSource = source.texts.map((name) => bySource(sourceOf(name)));
  const ofLink = link.texts.map((id) => byLink(id));
  const ofPage = page.texts.map((text) => byPage(plainPage(text)));
  const read = new Map<Segment, Uint32Array>();
  for (const segment of columns.segments) {
    const { rows, at } = segment;
    const column = new Uint32Array(rows);
    for (let i = 0; i < rows; i++) {
      const sourced = ofSource[element(segment.source[i])];
      const linked = ofLink[element(segment.link[i])];
      const paged = ofPage[element(segment.from[i])];
      if (sourced || linked || paged) column[i] = placeOf([sourced, linked, paged], element(at[i]));
    }
    read.set(segment, column);
  }
  return {
    column: (segment) => read.get(segment) ?? [],
    codes: Uint32Array.from(values.keys()),
    values,
    separator: promotionSeparator,
    ofLink: (id, name, day) =>
      element(values[placeOf([bySource(sourceOf(name)), byLink(id)], momentOf(zone, `${day}T12:00`))]),
  };
};
