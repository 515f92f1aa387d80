import { expose } from 'comlink';
import { unzipSync } from 'fflate';
import type { AlikeWord, BadRow, Domain, Link, Network } from '#core/catalogue';
import { alikeWords, firstProblem, mendAlike, recordId, secret } from '#core/catalogue';
import { compileDestination } from '#core/hop';
import type {
  AnyRecord,
  ColumnFields,
  GoodRow,
  ImportPlan,
  LinkField,
  ReadRedirects,
  CsvTable,
  WhenTaken,
} from '#core/formats';
import {
  decodeText,
  guessColumns,
  planImport,
  readCatalogue,
  readLinkRow,
  readLinkRows,
  readRedirects,
  readTable,
} from '#core/formats';

/** What a dropped file turned out to be. */
export type ReadFile =
  | {
      readonly kind: 'catalogue';
      readonly records: readonly AnyRecord[];
      readonly problems: readonly string[];
    }
  | {
      readonly kind: 'redirects';
      /** The forms in which they are written. */
      readonly formats: readonly ReadRedirects['format'][];
      readonly unread: readonly (ReadRedirects['unread'][number] & { readonly file: string })[];
    }
  | {
      readonly kind: 'table';
      readonly header: readonly string[];
      readonly columns: ColumnFields;
      readonly delimiter: string;
      readonly encoding: string;
      readonly sample: readonly (readonly string[])[];
      readonly rows: number;
    }
  | { readonly kind: 'nothing'; readonly message: string };

/** How the rows of the file were read. */
export interface ReadRows {
  readonly good: number;
  readonly bad: readonly BadRow[];
  /** What is wrong in the same way in many of them. */
  readonly alike: readonly AlikeWord[];
}

let table: CsvTable | undefined;
let good: GoodRow[] = [];
let bad: BadRow[] = [];
const sampleRows = 5;
/** A zip of redirects is small; larger entries, and more of them, are something else. */
const mostEntryBytes = 5 * 1024 * 1024;
const mostEntries = 2000;

const fresh = () => recordId('lnk', crypto.getRandomValues(new Uint8Array(14)));

/** What the server would refuse is no good row. */
const problemOf = (destination: string): string | undefined => {
  const compiled = compileDestination(destination);
  return compiled.ok ? undefined : firstProblem(compiled);
};

const readSoFar = (): ReadRows => ({ good: good.length, bad, alike: alikeWords(bad) });
const redirectColumns: ColumnFields = ['slug', 'destination', 'redirect type'];

const freshKey = () => secret(crypto.getRandomValues(new Uint8Array(30)));
const secretsOf = ({ postback: { key, pixelKey, previousKey, signature } }: Network) => ({
  key,
  pixelKey,
  ...(previousKey && { previousKey }),
  ...(signature && { signature }),
});

const api = {
  /** Reads a file and says what it is. Its rows stay here. */
  read: (bytes: Uint8Array, name: string, networks: readonly Network[]): ReadFile => {
    const { text, encoding } = decodeText(bytes);
    table = undefined;
    good = [];
    bad = [];
    if (/^\s*\{/.test(text)) {
      const read = readCatalogue(text, (id) => {
        const known = networks.find((network) => network.id === id);
        return known ? secretsOf(known) : { key: freshKey(), pixelKey: freshKey() };
      });
      return read.ok
        ? {
            kind: 'catalogue',
            records: read.value.records,
            problems: read.value.problems.map((p) => `${p.path}: ${p.message}`),
          }
        : { kind: 'nothing', message: firstProblem(read) };
    }
    if (readRedirects(text, name)) return api.readMany([{ name, bytes }]);
    table = readTable(text);
    if (table.rows.length === 0) return { kind: 'nothing', message: 'There is no row in this file.' };
    return {
      kind: 'table',
      header: table.header,
      columns: guessColumns(table),
      delimiter: table.delimiter,
      encoding,
      sample: table.rows.slice(0, sampleRows),
      rows: table.rows.length,
    };
  },

  /** Reads files of redirects together: a folder, a choice of several, or what is in a zip. Each that is none is named. */
  readMany: (files: readonly { readonly name: string; readonly bytes: Uint8Array }[]): ReadFile => {
    good = [];
    bad = [];
    const formats = new Set<ReadRedirects['format']>();
    const unread: (ReadRedirects['unread'][number] & { file: string })[] = [];
    const rows: string[][] = [];
    const lines: number[] = [];
    for (const { name, bytes } of files) {
      const read = readRedirects(decodeText(bytes).text, name);
      if (!read) {
        unread.push({ file: name, line: 0, text: '', why: 'It holds no redirects of a kind that is known.' });
        continue;
      }
      formats.add(read.format);
      for (const each of read.unread) unread.push({ ...each, file: name });
      for (const { path, to, status, line } of read.redirects) {
        rows.push([path, to, String(status)]);
        lines.push(line);
      }
    }
    table = { header: ['slug', 'url', 'type'], rows, lines, delimiter: '' };
    return { kind: 'redirects', formats: [...formats], unread };
  },
  /** The files of a zip, or nothing where it is none of files as people keep them. */
  unzip: (bytes: Uint8Array): { name: string; bytes: Uint8Array }[] => {
    const entries = Object.entries(
      unzipSync(bytes, {
        filter: ({ name, originalSize }) =>
          !/\/$|(?:^|\/)(?:__MACOSX|\.DS_Store)/.test(name) && originalSize < mostEntryBytes,
      }),
    );
    return entries.some(([name]) => name === '[Content_Types].xml')
      ? []
      : entries.slice(0, mostEntries).map(([name, content]) => ({ name, bytes: content }));
  },

  /** Reads the rows by a mapping of columns; left out for those of redirects. */
  rows: (columns: readonly LinkField[] = redirectColumns): ReadRows => {
    if (table) ({ good, bad } = readLinkRows(table, columns, problemOf));
    return readSoFar();
  },

  /** Reads mended rows again; each joins the good ones when it is one. */
  mend: (
    rows: readonly { readonly line: number; readonly cells: readonly string[] }[],
    columns: readonly LinkField[] = redirectColumns,
  ): ReadRows => {
    const again = new Map(
      rows.map(({ line, cells }) => [line, readLinkRow(cells, columns, line, problemOf)]),
    );
    bad = bad.flatMap((row) => {
      const read = again.get(row.line) ?? row;
      if (!('values' in read)) return [read];
      good.push(read);
      return [];
    });
    return readSoFar();
  },
  /** Puts another text in the place of a cell that is wrong in many rows, and reads these again. */
  mendAlike: (alike: AlikeWord, by: string, columns?: readonly LinkField[]): ReadRows =>
    api.mend(mendAlike(bad, alike, by), columns),

  /** What an import of the good rows would do. Nothing is changed by it. */
  plan: (
    domain: Domain,
    domains: readonly Domain[],
    links: readonly Link[],
    whenTaken: WhenTaken,
    at: number,
  ): ImportPlan => planImport(good, domain, domains, links, whenTaken, fresh, at),
};

export type ImportWorker = typeof api;

expose(api);
