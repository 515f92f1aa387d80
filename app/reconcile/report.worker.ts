import { expose } from 'comlink';
import type { AlikeWord, BadRow, Network, Report, ReportProfile, Status } from '#core/catalogue';
import { alikeWords, element, mendAlike, statuses } from '#core/catalogue';
import type { ReadReport, ReportChoices, ReportReading, ReportTable } from '#core/conversions';
import { compareRows, foldReports, guessReport, readReport, reportParts } from '#core/conversions';
import type { AsideLine } from '#core/formats';
import { openReport } from '#core/formats';

/** How the columns of a dropped file look, and how it would be read. */
export interface OpenedFile {
  readonly format: string;
  readonly header: readonly string[];
  readonly sample: readonly (readonly string[])[];
  readonly rows: number;
  /** Lines that are no rows: before the heading, totals, notes; the first of them. */
  readonly aside: readonly AsideLine[];
  readonly asideCount: number;
  /** Line of the heading, from 1; 0 where there is none. */
  readonly headerLine: number;
  readonly reading: ReportReading;
}

/** What came of the rows. */
export interface ReadSummary {
  readonly good: number;
  readonly bad: number;
  readonly shownBad: readonly BadRow[];
  /** What is wrong in the same way in many of them. */
  readonly alike: readonly AlikeWord[];
  readonly from: string;
  readonly until: string;
  readonly fresh: number;
  readonly changed: number;
  readonly same: number;
  /** The money of the good rows by currency and state: what the network's own screen shows. */
  readonly sums: readonly StateSum[];
}

export interface StateSum {
  readonly currency: string;
  readonly status: Status;
  readonly rows: number;
  /** Null where none of the rows brings an amount: terms price them. */
  readonly minor: number | null;
}

const sampleRows = 4;
const mostBad = 100;
const mostAside = 12;
let table: ReportTable | undefined;
let read: ReadReport | undefined;
let fresh: ReadReport['rows'] = [];
/** Rows that were mended, by their line. */
const mended = new Map<number, readonly string[]>();

const sumsOf = (rows: ReadReport['rows']): StateSum[] => {
  const sums = new Map<string, StateSum>();
  for (const { currency, status, amount } of rows) {
    const key = `${currency} ${status}`;
    const { rows: n, minor } = sums.get(key) ?? { rows: 0, minor: null };
    sums.set(key, { currency, status, rows: n + 1, minor: amount === null ? minor : amount + (minor ?? 0) });
  }
  const place = ({ currency, status }: StateSum) => `${currency} ${statuses.indexOf(status)}`;
  return [...sums.values()].toSorted((a, b) => place(a).localeCompare(place(b)));
};

const readAll = (
  profile: ReportProfile,
  network: Network,
  reports: readonly Report[],
  onProgress: (done: number) => void,
): ReadSummary => {
  if (!table) throw new Error('no file');
  const { header, lines } = table;
  const rows = table.rows.map((cells, i) => mended.get(element(lines[i])) ?? cells);
  read = readReport({ header, lines, rows }, profile, network, (done) => {
    onProgress(done);
    return true;
  });
  const compared = compareRows(foldReports(reports), network.id, read.rows);
  fresh = [...compared.fresh, ...compared.changed];
  return {
    good: read.rows.length + read.clicks.length,
    bad: read.bad.length,
    shownBad: read.bad.slice(0, mostBad),
    alike: alikeWords(read.bad),
    from: read.from,
    until: read.until,
    fresh: compared.fresh.length,
    changed: compared.changed.length,
    same: compared.same,
    sums: sumsOf(read.rows),
  };
};

const api = {
  /** Reads a file and says how it would be read. Its rows stay here. */
  open: async (
    file: Blob,
    network: Network,
    headerLine?: number,
  ): Promise<OpenedFile | { readonly message: string }> => {
    table = undefined;
    mended.clear();
    const opened = await openReport(new Uint8Array(await file.arrayBuffer()), headerLine);
    if (!opened.ok) return { message: opened.message };
    ({ table } = opened);
    const { aside, headerLine: at } = opened.table;
    return {
      format: opened.format,
      header: table.header,
      sample: table.rows.slice(0, sampleRows),
      rows: table.rows.length,
      aside: aside.slice(0, mostAside),
      asideCount: aside.length,
      headerLine: at,
      reading: guessReport(table, network),
    };
  },
  /** Says how the file would be read, with what a person answered. */
  guess: (network: Network, choices: ReportChoices): ReportReading => {
    if (!table) throw new Error('no file');
    return guessReport(table, network, choices);
  },
  /** Reads every row, and compares with what earlier reports said. */
  read: readAll,
  /** Puts another row in the place of a bad one. */
  mend: (line: number, cells: readonly string[]): void => {
    mended.set(line, cells);
  },
  /** Puts another text in the place of a cell that is wrong in many rows. */
  mendAlike: (alike: AlikeWord, by: string): void => {
    for (const { line, cells } of mendAlike(read?.bad ?? [], alike, by)) mended.set(line, cells);
  },
  /** What is to be kept, as records. */
  parts: (more: {
    readonly network: string;
    readonly batch: string;
    readonly file: string;
    readonly at: number;
    readonly from: string;
    readonly until: string;
  }): Report[] => (read ? reportParts({ ...more, rows: fresh, clicks: read.clicks }) : []),
};

export type ReportWorker = typeof api;

expose(api);
