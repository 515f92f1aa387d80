import * as v from 'valibot';
import type { BadRow, Link, Problem } from '#core/catalogue';
import { checkRecord, element, proposeSlug, slugProblem } from '#core/catalogue';
import type { CsvTable } from './csv.ts';

/** What a column of an imported table may hold. */
export const linkFields = [
  'destination',
  'slug',
  'short address',
  'title',
  'group',
  'tags',
  'notes',
  'redirect type',
  'rel',
  'new tab',
  'from',
  'until',
  'zone',
  'archived',
  'answers as',
  'ignored',
] as const;
export type LinkField = (typeof linkFields)[number];

/** What each column is read as, by its place. */
export type ColumnFields = readonly LinkField[];

/** Names under which such columns stand in tables people have; *common practice*. */
const names: readonly (readonly [LinkField, RegExp])[] = [
  [
    'destination',
    /^(?:destination|target|(?:target|long|affiliate|tracking|redirect|destination)[ _-]?(?:url|link|address)|url|link|to)$/i,
  ],
  ['slug', /^(?:slug|alias|short(?:[ _-]?(?:url|link|address|code))?|path|from)$/i],
  ['title', /^(?:title|name|label|link[ _-]?name|description)$/i],
  ['group', /^(?:group|category|folder|campaign)$/i],
  ['tags', /^(?:tags?|labels|keywords)$/i],
  ['notes', /^(?:notes?|comment|remarks?|memo)$/i],
  ['redirect type', /^(?:redirect(?:ion)?[ _-]?type|redirect|status|type|http[ _-]?code|code)$/i],
  ['rel', /^(?:rel|nofollow|sponsored)$/i],
  ['new tab', /^(?:new[ _-]?(?:tab|window)|target[ _-]?blank)$/i],
  ['from', /^(?:open[ _-]?from|start(?:s|[ _-]?date)?|valid[ _-]?from)$/i],
  [
    'until',
    /^(?:open[ _-]?until|end(?:s|[ _-]?date)?|expir(?:y|es|ation)(?:[ _-]?date)?|valid[ _-]?until)$/i,
  ],
  ['zone', /^(?:time[ _-]?)?zone$/i],
  ['archived', /^archived(?:[ _-]?(?:at|on))?$/i],
  ['answers as', /^answers[ _-]?as$/i],
];

/** Guesses what each column holds: by its name, then by its content. */
export const guessColumns = ({ header, rows }: CsvTable): ColumnFields => {
  const guessed: LinkField[] = header.map(() => 'ignored');
  // A column that is called just like one of ours is that one.
  for (const field of linkFields) {
    const at = header.findIndex((name) => name.trim().toLowerCase() === field);
    if (at >= 0) guessed[at] = field;
  }
  for (const [field, form] of names) {
    if (guessed.includes(field)) continue;
    const at = header.findIndex((name, i) => guessed[i] === 'ignored' && form.test(name.trim()));
    if (at >= 0) guessed[at] = field;
  }
  const sample = rows.slice(0, 50);
  const share = (i: number, form: RegExp) =>
    sample.filter((row) => form.test((row[i] ?? '').trim())).length / Math.max(1, sample.length);
  const byContent = (field: LinkField, form: RegExp) => {
    if (guessed.includes(field)) return;
    const at = header.findIndex((_, i) => guessed[i] === 'ignored' && share(i, form) > 0.7);
    if (at >= 0) guessed[at] = field;
  };
  const addresses = header.flatMap((_, i) =>
    guessed[i] === 'ignored' && share(i, /^(?:https?:\/\/)?[^\s/]+\.[a-z]{2,}(?::\d+)?\/\S+$/i) > 0.7
      ? [i]
      : [],
  );
  // Of two columns of addresses the one on a single host is the short one; destinations are on many, or longer.
  if (addresses.length > 1 && !guessed.includes('slug')) {
    const cellsOf = (i: number) => sample.map((row) => (row[i] ?? '').trim());
    const lengthOf = (i: number) => cellsOf(i).join('').length;
    const hostsOf = (i: number) =>
      new Set(cellsOf(i).map((text) => text.replace(/^https?:\/\//i, '').replace(/\/.*$/s, ''))).size;
    const short = addresses.filter((i) => hostsOf(i) === 1).toSorted((a, b) => lengthOf(a) - lengthOf(b))[0];
    if (short !== undefined) guessed[short] = 'slug';
  }
  byContent('destination', /^https?:\/\/\S+$/i);
  byContent('redirect type', /^30[1278]$/);
  byContent('slug', /^\/?(?:[a-z0-9_-]{1,40}\/)?[a-z0-9][a-z0-9._-]{0,60}$/i);
  byContent('slug', /^[^\s/]+\.[a-z]{2,}(?::\d+)?\/[^\s?#]{1,80}$/i);
  byContent('title', /^\S.*\s.*$/);
  return guessed;
};

/** A row that can become a link. */
export interface GoodRow {
  readonly line: number;
  readonly values: Pick<
    Link,
    'title' | 'slug' | 'destination' | 'notes' | 'hop' | 'marks' | 'hours' | 'tags' | 'group' | 'archived'
  >;
  /** Host of its short address; empty where the row names none. */
  readonly host: string;
  /** The link that answers for it since it was archived; an empty slug for none, an empty host for one of the same domain. */
  readonly answersAs: { readonly host: string; readonly slug: string };
  /** What the table has a column of; of the rest it says nothing. */
  readonly given: ReadonlySet<LinkField>;
}

const yes = /^(?:1|yes|true|y|x|on)$/i;

const localTime = (text: string): string | undefined => {
  const found = /^(\d{4}-\d\d-\d\d)(?:[T ](\d\d:\d\d))?/.exec(text);
  return found ? `${element(found[1])}T${found[2] ?? '00:00'}` : undefined;
};

const relOf = (text: string): Link['marks']['rel'] => {
  const values = (['sponsored', 'nofollow', 'ugc'] as const).filter((rel) =>
    text.toLowerCase().includes(rel),
  );
  return values.length > 0 ? values : yes.test(text) ? ['nofollow'] : [];
};

/** The host of a short address, with or without its scheme; empty where there is none. */
const shortHost = (text: string): string =>
  (/^https?:\/\/([^/?#]+)\//i.exec(text) ?? /^([^\s/]+\.[a-z]{2,})(?::\d+)?\//i.exec(text))?.[1]
    ?.replace(/:\d+$/, '')
    .toLowerCase() ?? '';

const slugIn = (text: string): string =>
  text
    .replace(/^https?:\/\/[^/]+/i, '')
    // A whole short address may be written without its scheme.
    .replace(/^[^\s/]+\.[a-z]{2,}(?::\d+)?\//i, '')
    .replace(/^\/+|\/+$/g, '')
    .toLowerCase();

/** Tags in a cell: parted by bars where there is one, else by semicolons, else by commas. */
const tagsIn = (cell: string): string[] => {
  const mark = ['|', ';', ','].find((sign) => cell.includes(sign)) ?? ',';
  return [
    ...new Set(
      cell
        .split(mark)
        .map((tag) => tag.trim())
        .filter(Boolean),
    ),
  ];
};

/** Says why a destination could not be followed; nothing where it can. */
export type DestinationProblem = (destination: string) => string | undefined;

/** A moment as it is written, or the day it was; undefined for what is neither. */
const momentIn = (text: string): number | undefined => {
  const at = Date.parse(text);
  return Number.isNaN(at) ? undefined : at;
};

/**
 * Reads one row; what is wrong with it is said in sentences.
 *
 * @param problemOf looks at a destination beyond its being an address: what the server would refuse is no good row
 */
export const readLinkRow = (
  row: readonly string[],
  columns: ColumnFields,
  line: number,
  problemOf: DestinationProblem = () => undefined,
): GoodRow | BadRow => {
  const problems: Problem[] = [];
  const fault = (path: string, message: string) => problems.push({ path, message });
  const cell = (field: LinkField) => {
    const at = columns.indexOf(field);
    return at < 0 ? '' : (row[at] ?? '').trim();
  };
  const destination = cell('destination');
  const short = cell('short address');
  const given = slugIn(cell('slug') || short);
  const [last = '', ...folders] = given.split('/').reverse();
  const title = cell('title') || last || destination;
  const slug = last === '' ? proposeSlug(title) : last;
  if (!/^https?:\/\/[^/?#\s]+/i.test(destination))
    fault(
      'destination',
      destination === ''
        ? 'It has no destination.'
        : `“${destination.slice(0, 60)}” is no http or https address.`,
    );
  const wrong = slugProblem(slug);
  if (wrong !== undefined) fault('slug', wrong);
  const group = (cell('group') ? proposeSlug(cell('group')) : folders.reverse().join('-')) || '';
  const type = cell('redirect type');
  const status =
    type === '' ? undefined : ([301, 302, 307, 308] as const).find((s) => type.includes(String(s)));
  if (type !== '' && status === undefined)
    fault('redirect type', `“${type}” is no redirect type; 301, 302, 307 and 308 are.`);
  const [from, until] = [cell('from'), cell('until')];
  const [opens, closes] = [localTime(from), localTime(until)];
  if (from !== '' && opens === undefined) fault('from', `“${from}” is no day such as 2026-10-24.`);
  if (until !== '' && closes === undefined) fault('until', `“${until}” is no day such as 2026-10-24.`);
  const tags = tagsIn(cell('tags'));
  const refused = problems.length === 0 ? problemOf(destination) : undefined;
  if (refused !== undefined) fault('destination', refused);
  const archivedAt = momentIn(cell('archived'));
  const isArchived = cell('archived') !== '' && !/^(?:no|false|0)$/i.test(cell('archived'));
  if (isArchived && archivedAt === undefined && !yes.test(cell('archived')))
    fault('archived', `“${cell('archived')}” is no day such as 2026-10-24.`);
  const rel = columns.includes('rel') && cell('rel') !== '' ? relOf(cell('rel')) : undefined;
  const tab = cell('new tab');
  if (problems.length > 0) return { line, cells: row, problems };
  const values: GoodRow['values'] = {
    title: title.slice(0, 200),
    slug,
    destination,
    notes: cell('notes').slice(0, 4000),
    hop: status === undefined ? {} : { status },
    marks: { ...(rel && { rel }), ...(tab !== '' && { newTab: yes.test(tab) }) },
    ...(opens || closes || cell('zone') !== ''
      ? {
          hours: {
            ...(cell('zone') !== '' && { zone: cell('zone') }),
            ...(opens && { from: opens }),
            ...(closes && { until: closes }),
          },
        }
      : {}),
    ...(isArchived && { archived: { at: archivedAt ?? 0 } }),
    ...(tags.length > 0 && { tags }),
    ...(group !== '' && { group }),
  };
  const checked = checkRecord('link', {
    ...values,
    id: 'lnk_x',
    domain: 'dom_x',
    aliases: [],
    asText: [],
    createdAt: 0,
  });
  return checked.ok
    ? {
        line,
        values,
        host: shortHost(short || cell('slug')),
        answersAs: { host: shortHost(cell('answers as')), slug: slugIn(cell('answers as')) },
        given: new Set(columns),
      }
    : { line, cells: row, problems: checked.problems };
};

/** Reads a whole table into rows that are good and rows that are not. */
export const readLinkRows = (
  table: CsvTable,
  columns: ColumnFields,
  problemOf?: DestinationProblem,
): { good: GoodRow[]; bad: BadRow[] } => {
  const good: GoodRow[] = [];
  const bad: BadRow[] = [];
  for (const [i, row] of table.rows.entries()) {
    const read = readLinkRow(row, columns, table.lines[i] ?? i + 1, problemOf);
    if ('values' in read) good.push(read);
    else bad.push(read);
  }
  return { good, bad };
};

/** A list of mappings as settings keep them, by the header they were made for. */
export const columnsKey = (header: readonly string[]): string => header.join('|').slice(0, 2000);
export const isLinkField = (text: string): text is LinkField => v.is(v.picklist(linkFields), text);
