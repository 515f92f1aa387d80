import * as v from 'valibot';
import type { BadRow, Domain, Link, Problem } from '#core/catalogue';
import { addressOf, checkRecord, element, proposeSlug, slugProblem } from '#core/catalogue';
import type { CsvTable } from './csv.ts';
import { writeTable } from './csv.ts';

/** What a column of an imported table may hold. */
export const linkFields = [
  'destination',
  'slug',
  'title',
  'group',
  'tags',
  'notes',
  'redirect type',
  'rel',
  'new tab',
  'from',
  'until',
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
];

/** Guesses what each column holds: by its name, then by its content. */
export const guessColumns = ({ header, rows }: CsvTable): ColumnFields => {
  const guessed: LinkField[] = header.map(() => 'ignored');
  for (const [field, form] of names) {
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
    'title' | 'slug' | 'destination' | 'notes' | 'hop' | 'marks' | 'hours' | 'tags' | 'group'
  >;
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

const slugIn = (text: string): string =>
  text
    .replace(/^https?:\/\/[^/]+/i, '')
    // A whole short address may be written without its scheme.
    .replace(/^[^\s/]+\.[a-z]{2,}(?::\d+)?\//i, '')
    .replace(/^\/+|\/+$/g, '')
    .toLowerCase();

/** Reads one row; what is wrong with it is said in sentences. */
export const readLinkRow = (
  row: readonly string[],
  columns: ColumnFields,
  line: number,
): GoodRow | BadRow => {
  const problems: Problem[] = [];
  const fault = (path: string, message: string) => problems.push({ path, message });
  const cell = (field: LinkField) => {
    const at = columns.indexOf(field);
    return at < 0 ? '' : (row[at] ?? '').trim();
  };
  const destination = cell('destination');
  const given = slugIn(cell('slug'));
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
  const tags = [
    ...new Set(
      cell('tags')
        .split(/[,;|]/)
        .map((tag) => tag.trim())
        .filter(Boolean),
    ),
  ];
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
    ...(opens || closes
      ? { hours: { ...(opens && { from: opens }), ...(closes && { until: closes }) } }
      : {}),
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
  return checked.ok ? { line, values } : { line, cells: row, problems: checked.problems };
};

/** Reads a whole table into rows that are good and rows that are not. */
export const readLinkRows = (table: CsvTable, columns: ColumnFields): { good: GoodRow[]; bad: BadRow[] } => {
  const good: GoodRow[] = [];
  const bad: BadRow[] = [];
  for (const [i, row] of table.rows.entries()) {
    const read = readLinkRow(row, columns, table.lines[i] ?? i + 1);
    if ('values' in read) good.push(read);
    else bad.push(read);
  }
  return { good, bad };
};

/** What is done with a row whose slug is taken. */
export type WhenTaken = 'skip' | 'rename' | 'replace';

/** What an import would do: links to make and to change, and rows that are passed over. */
export interface ImportPlan {
  readonly made: readonly Link[];
  readonly replaced: readonly { readonly before: Link; readonly after: Link }[];
  readonly renamed: readonly { readonly from: string; readonly to: string }[];
  readonly skipped: readonly { readonly line: number; readonly slug: string }[];
}

/**
 * Plans what becomes of good rows on a domain. Nothing is changed by it.
 *
 * @param fresh gives an ID for a new link
 * @param at when they are made; milliseconds since 1970 UTC
 */
export const planImport = (
  rows: readonly GoodRow[],
  domain: Domain,
  links: readonly Link[],
  whenTaken: WhenTaken,
  fresh: () => string,
  at: number,
): ImportPlan => {
  const owners = new Map<string, Link>();
  for (const link of links)
    if (link.domain === domain.id) for (const slug of [link.slug, ...link.aliases]) owners.set(slug, link);
  const used = new Set<string>(owners.keys());
  const made: Link[] = [];
  const replaced: { before: Link; after: Link }[] = [];
  const renamed: { from: string; to: string }[] = [];
  const skipped: { line: number; slug: string }[] = [];
  for (const { line, values: written } of rows) {
    // What stands before every slug of the domain is no group of this one.
    const { group, ...rest } = written;
    const values = group !== undefined && `${group}/` === domain.prefix ? rest : written;
    let { slug } = values;
    if (used.has(slug)) {
      const before = owners.get(slug);
      if (whenTaken === 'replace' && before) {
        replaced.push({ before, after: { ...before, ...values, slug: before.slug } });
        owners.delete(slug);
        continue;
      }
      if (whenTaken !== 'rename') {
        skipped.push({ line, slug });
        continue;
      }
      let n = 2;
      while (used.has(`${slug}-${n}`)) n += 1;
      renamed.push({ from: slug, to: `${slug}-${n}` });
      slug = `${slug}-${n}`;
    }
    used.add(slug);
    made.push({ ...values, id: fresh(), domain: domain.id, slug, aliases: [], asText: [], createdAt: at });
  }
  return { made, replaced, renamed, skipped };
};

const csvHeader = [
  'short address',
  'slug',
  'title',
  'destination',
  'group',
  'tags',
  'redirect type',
  'rel',
  'new tab',
  'from',
  'until',
  'notes',
];

/** Links as CSV for people; what only JSON holds (splits, pages, words) is left out. */
export const writeLinks = (links: readonly Link[], domains: readonly Domain[]): string =>
  writeTable(
    csvHeader,
    links.map((link) => {
      const domain = domains.find((d) => d.id === link.domain);
      return [
        domain ? addressOf(domain, link) : '',
        link.slug,
        link.title,
        link.destination,
        link.group ?? '',
        (link.tags ?? []).join(', '),
        link.hop.status ?? '',
        link.marks.rel?.join(' ') ?? '',
        link.marks.newTab === undefined ? '' : link.marks.newTab ? 'yes' : 'no',
        link.hours?.from ?? '',
        link.hours?.until ?? '',
        link.notes,
      ];
    }),
  );

/** A list of mappings as settings keep them, by the header they were made for. */
export const columnsKey = (header: readonly string[]): string => header.join('|').slice(0, 2000);
export const isLinkField = (text: string): text is LinkField => v.is(v.picklist(linkFields), text);
