import { element } from '#core/catalogue';
import type { Segment, VisitColumns } from '#core/visits';
import type { Dimension } from './dimension.ts';
import { dimensionOf } from './dimension.ts';
import { hourName, hoursIn, hoursOfWeek } from './hourOfWeek.ts';

/** What of a link its requests are told apart by. */
export interface LinkTraits {
  readonly id: string;
  readonly network?: string | undefined;
  readonly program?: string | undefined;
  readonly group?: string | undefined;
  readonly tags?: readonly string[] | undefined;
}

export interface DimensionInput {
  readonly columns: VisitColumns;
  readonly links: readonly LinkTraits[];
  /** IANA zone of the person's own days. */
  readonly zone: string;
  /** The name a source counts under: its own, or the one of which it is a slip. */
  readonly sourceOf: (name: string) => string;
}

type TextColumn = keyof VisitColumns['dictionaries'];

/** A page without what stands after `?` and `#`. */
const bare = (page: string): string => page.replace(/[?#].*$/s, '');
const siteOf = (page: string): string => /^[a-z]+:\/\/([^/?#]*)/i.exec(page)?.[1]?.toLowerCase() ?? '';

const unknown = (): string => '';
const byText = (
  { columns }: DimensionInput,
  name: TextColumn,
  valueOf: (text: string) => string,
  ofLink: Dimension['ofLink'] = unknown,
): Dimension => {
  const { texts } = columns.dictionaries[name];
  return dimensionOf(
    (segment) => segment[name],
    texts.length,
    (place) => valueOf(element(texts[place])),
    ofLink,
  );
};
const byLink = (input: DimensionInput, valueOf: (link: LinkTraits) => string): Dimension => {
  const known = new Map(input.links.map((link) => [link.id, link]));
  const valueOfId = (id: string): string => {
    const link = known.get(id);
    return link ? valueOf(link) : '';
  };
  return byText(input, 'link', valueOfId, valueOfId);
};
const itself = (text: string): string => text;
/** Between the tags of a link: a link has one value, so that all values add up to the whole. */
export const tagSeparator = ', ';

/** Makes each dimension of requests; an empty value stands for what is not known or not set. */
export const requestDimensions = {
  link: (input) => byText(input, 'link', itself, itself),
  source: (input) => byText(input, 'source', input.sourceOf, (_, source) => input.sourceOf(source)),
  page: (input) => byText(input, 'from', bare),
  site: (input) => byText(input, 'from', siteOf),
  country: (input) => byText(input, 'country', itself),
  language: (input) => byText(input, 'lang', itself),
  device: ({ columns }) =>
    dimensionOf(
      (segment: Segment) => segment.flags,
      256,
      (flags) => columns.deviceOf(flags),
      unknown,
    ),
  branch: (input) => byText(input, 'branch', itself),
  hour: ({ zone }) => dimensionOf((segment) => hoursIn(segment, zone), hoursOfWeek, hourName, unknown),
  domain: (input) => byText(input, 'host', itself),
  network: (input) => byLink(input, ({ network = '' }) => network),
  program: (input) => byLink(input, ({ program = '' }) => program),
  group: (input) => byLink(input, ({ group = '' }) => group),
  tags: (input) => byLink(input, ({ tags = [] }) => tags.toSorted().join(tagSeparator)),
} as const satisfies Record<string, (input: DimensionInput) => Dimension>;

export type DimensionName = keyof typeof requestDimensions;
/** In the order in which a screen offers them. */
export const dimensionNames = Object.keys(requestDimensions) as DimensionName[]; // its own keys
