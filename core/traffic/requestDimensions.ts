import type { Promotion } from '#core/catalogue';
import { element } from '#core/catalogue';
import { everyoneElse } from '#core/hop';
import type { Segment, VisitColumns } from '#core/visits';
import { botKinds } from '#core/visits';
import { browsersOf } from './browsers.ts';
import type { Dimension } from './dimension.ts';
import { dimensionOf } from './dimension.ts';
import type { DimensionName } from './dimensionNames.ts';
import { hourName, hoursIn, hoursOfWeek } from './hourOfWeek.ts';
import { pairsOf } from './pairs.ts';
import type { PassedRole, PassesOf } from './passed.ts';
import { passedValue, sourceQueries } from './passed.ts';
import { byPromotion } from './promotions.ts';

/** Where a branch of a link leads now. */
export interface WayOut {
  /** The page, without what stands after `?`. */
  readonly page: string;
  /** The account tag in its address. */
  readonly tag: string;
  /** What the network's slots hold, in their order; tokens as `{source}`. */
  readonly slots: readonly string[];
}

/** What of a link its requests are told apart by. */
export interface LinkTraits {
  readonly id: string;
  readonly network?: string | undefined;
  readonly program?: string | undefined;
  readonly group?: string | undefined;
  readonly tags?: readonly string[] | undefined;
  /** Undefined for a branch that leads nowhere, or is no longer there. */
  readonly wayOut?: ((branch: string) => WayOut | undefined) | undefined;
}

export interface DimensionInput {
  readonly columns: VisitColumns;
  readonly links: readonly LinkTraits[];
  /** IANA zone of the person's own days. */
  readonly zone: string;
  /** The name a source counts under: its own, or the one of which it is a slip. */
  readonly sourceOf: (name: string) => string;
  readonly passesOf: PassesOf;
  /** None where left out. */
  readonly promotions?: readonly Promotion[];
  /** By what the requests of a segment are machines': places in `botKinds`. */
  readonly kindsIn: (segment: Segment) => ArrayLike<number>;
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
/** By where the branch of the link leads; where the branch is not known, as of requests that were rolled up, by that for everyone. */
const byWayOut = (
  input: DimensionInput,
  valueOf: (wayOut: WayOut, source: string) => string,
  needsSource = false,
): Dimension => {
  const { columns, links } = input;
  const { link, branch, source } = columns.dictionaries;
  const known = new Map(links.map((one) => [one.id, one]));
  const value = (id: string, branchName: string, sourceName: string): string => {
    const wayOut = known.get(id)?.wayOut?.(branchName);
    return wayOut ? valueOf(wayOut, sourceName) : '';
  };
  const ways = pairsOf(
    columns,
    'link branch',
    (segment) => segment.link,
    (segment) => segment.branch,
  );
  const ofWay = (place: number, sourceName: string): string =>
    value(
      element(link.texts[element(ways.firsts[place])]),
      element(branch.texts[element(ways.seconds[place])]),
      sourceName,
    );
  const ofLink: Dimension['ofLink'] = (id, sourceName) => value(id, everyoneElse, sourceName);
  if (!needsSource) return dimensionOf(ways.column, ways.firsts.length, (place) => ofWay(place, ''), ofLink);
  const sent = pairsOf(columns, 'link branch source', ways.column, (segment) => segment.source);
  return dimensionOf(
    sent.column,
    sent.firsts.length,
    (place) => ofWay(element(sent.firsts[place]), element(source.texts[element(sent.seconds[place])])),
    ofLink,
  );
};
/** What stood in a slot: the source in its place; a click ID is another every time, so it is told as the token. */
const bySlot = (input: DimensionInput, slot: number): Dimension =>
  byWayOut(input, ({ slots }, source) => (slots[slot] ?? '').replaceAll('{source}', source), true);
const byAgent = (input: DimensionInput, of: 'browser' | 'system'): Dimension => {
  const read = browsersOf(input.columns.dictionaries.ua.texts);
  return dimensionOf(
    (segment) => segment.ua,
    read.length,
    (place) => element(read[place])[of],
    unknown,
  );
};
/** By what the seller of a source's visits passes along in a parameter. */
const byPassed = ({ columns, passesOf }: DimensionInput, role: PassedRole): Dimension => {
  const { source, query } = columns.dictionaries;
  const parameters = source.texts.map((name) => passesOf(name)?.[role]);
  if (!parameters.some((parameter) => parameter !== undefined))
    return dimensionOf((segment) => segment.source, source.texts.length, unknown, unknown);
  const { column, firsts, seconds } = sourceQueries(columns);
  const value = (pair: number): string => {
    const parameter = parameters[element(firsts[pair])];
    return parameter === undefined
      ? ''
      : passedValue(element(query.texts[element(seconds[pair])]), parameter);
  };
  return dimensionOf(column, firsts.length, value, unknown);
};
const itself = (text: string): string => text;
/** Between the tags of a link: a link has one value, so that all values add up to the whole. */
export const tagSeparator = ', ';

/** Makes each dimension of requests; an empty value stands for what is not known or not set. */
export const requestDimensions = {
  link: (input) => byText(input, 'link', itself, itself),
  source: (input) => byText(input, 'source', input.sourceOf, (_, source) => input.sourceOf(source)),
  promotion: byPromotion,
  page: (input) => byText(input, 'from', bare),
  site: (input) => byText(input, 'from', siteOf),
  country: (input) => byText(input, 'country', itself),
  language: (input) => byText(input, 'lang', itself),
  bot: ({ kindsIn }) => dimensionOf(kindsIn, botKinds.length, (place) => element(botKinds[place]), unknown),
  connection: ({ columns }) =>
    dimensionOf(
      (segment: Segment) => segment.flags,
      256,
      (flags) => columns.connectionOf(flags),
      unknown,
    ),
  device: ({ columns }) =>
    dimensionOf(
      (segment: Segment) => segment.flags,
      256,
      (flags) => columns.deviceOf(flags),
      unknown,
    ),
  browser: (input) => byAgent(input, 'browser'),
  system: (input) => byAgent(input, 'system'),
  destination: (input) => byWayOut(input, ({ page }) => page),
  branch: (input) => byText(input, 'branch', itself),
  hour: ({ zone }) => dimensionOf((segment) => hoursIn(segment, zone), hoursOfWeek, hourName, unknown),
  domain: (input) => byText(input, 'host', itself),
  network: (input) => byLink(input, ({ network = '' }) => network),
  program: (input) => byLink(input, ({ program = '' }) => program),
  group: (input) => byLink(input, ({ group = '' }) => group),
  tags: (input) => byLink(input, ({ tags = [] }) => tags.toSorted().join(tagSeparator)),
  writer: (input) => byWayOut(input, ({ tag }) => tag),
  slot1: (input) => bySlot(input, 0),
  slot2: (input) => bySlot(input, 1),
  slot3: (input) => bySlot(input, 2),
  slot4: (input) => bySlot(input, 3),
  slot5: (input) => bySlot(input, 4),
  placement: (input) => byPassed(input, 'placement'),
  keyword: (input) => byPassed(input, 'keyword'),
  creative: (input) => byPassed(input, 'creative'),
} as const satisfies Record<DimensionName, (input: DimensionInput) => Dimension>;
