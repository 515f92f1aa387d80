import { expose } from 'comlink';
import type { BadRow, Domain, Link, Network } from '#core/catalogue';
import { firstProblem, recordId, secret } from '#core/catalogue';
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
      readonly format: ReadRedirects['format'];
      readonly unread: ReadRedirects['unread'];
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

let table: CsvTable | undefined;
let good: GoodRow[] = [];
let bad: BadRow[] = [];
const sampleRows = 5;

const fresh = () => recordId('lnk', crypto.getRandomValues(new Uint8Array(14)));

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
    const redirects = readRedirects(text, name);
    if (redirects) {
      const { format, unread } = redirects;
      table = {
        header: ['slug', 'url', 'type'],
        rows: redirects.redirects.map((r) => [r.path, r.to, String(r.status)]),
        lines: redirects.redirects.map((r) => r.line),
        delimiter: '',
      };
      return { kind: 'redirects', format, unread };
    }
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

  /** Reads the rows by a mapping of columns; gives how many are good, and the bad ones. */
  rows: (columns: readonly LinkField[] | undefined): { good: number; bad: readonly BadRow[] } => {
    if (!table) return { good: 0, bad: [] };
    ({ good, bad } = readLinkRows(table, columns ?? ['slug', 'destination', 'redirect type']));
    return { good: good.length, bad };
  },

  /** Reads one mended row again; it joins the good ones when it is. Gives what is still wrong with it. */
  mend: (row: readonly string[], columns: readonly LinkField[], line: number): BadRow | undefined => {
    const read = readLinkRow(row, columns, line);
    if (!('values' in read)) return read;
    good.push(read);
    bad = bad.filter((other) => other.line !== line);
    return undefined;
  },

  /** What an import of the good rows would do. Nothing is changed by it. */
  plan: (domain: Domain, links: readonly Link[], whenTaken: WhenTaken, at: number): ImportPlan =>
    planImport(good, domain, links, whenTaken, fresh, at),
};

export type ImportWorker = typeof api;

expose(api);
