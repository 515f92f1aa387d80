import { expose } from 'comlink';
import type { AlikeWord, BadRow, Network, Report, ReportProfile } from '#core/catalogue';
import { alikeWords, element, mendAlike } from '#core/catalogue';
import type {
  ReadReport,
  Reported,
  ReportChoices,
  ReportReading,
  ReportTable,
  StateSum,
} from '#core/conversions';
import {
  amountsOf,
  compareRows,
  foldReports,
  goneRows,
  guessReport,
  readReport,
  reportParts,
  sumByState,
} from '#core/conversions';
import type { AsideLine } from '#core/formats';
import { openTable } from '#core/formats';

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
  /** How many rows of the file these are made of: several where an order has items. */
  readonly fileRows: number;
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
  /** The same of what earlier reports said of the days from the first to the last. */
  readonly before: readonly StateSum[];
  /** Rows in an hour that came twice, of which nobody knows which it was. */
  readonly twiceHour: number;
}

/** A conversion we heard of, by what a report would list it. */
export interface Heard {
  readonly txn: string;
  readonly click: string;
  readonly at: number;
}

/** What the days that a report covers hold and it does not list. */
export interface Unlisted {
  /** Rows of earlier reports. */
  readonly gone: number;
  /** Conversions we heard of, and how many of these days we heard of at all. */
  readonly unheard: number;
  readonly heard: number;
}

const sampleRows = 4;
/** As many letters of a click ID as a network keeps at least. */
const keyLetters = 20;
const mostBad = 100;
const mostAside = 12;
let table: ReportTable | undefined;
let read: ReadReport | undefined;
let known: ReadonlyMap<string, Reported> = new Map();
let network: Network | undefined;
let gone: readonly string[] = [];
let earlier: ReadonlyMap<string, number> = new Map();
let fresh: ReadReport['rows'] = [];
/** Rows that were mended, by their line. */
const mended = new Map<number, readonly string[]>();

/** Rows of the network that earlier reports have of a stretch of days, and that are listed still. */
const knownIn = (isCovered: (at: number) => boolean): Reported[] =>
  [...known.values()].filter(
    (row) => row.network === network?.id && row.gone === undefined && isCovered(row.at),
  );

const readAll = (
  profile: ReportProfile,
  of: Network,
  reports: readonly Report[],
  onProgress: (done: number) => void,
): ReadSummary => {
  if (!table) throw new Error('no file');
  const { header, lines } = table;
  const rows = table.rows.map((cells, i) => mended.get(element(lines[i])) ?? cells);
  network = of;
  const isTelling = () => of.postback.caseMatters === true;
  known = foldReports(reports, isTelling);
  read = readReport({ header, lines, rows }, profile, of, (done) => {
    onProgress(done);
    return true;
  });
  const compared = compareRows(known, of.id, read.rows, isTelling);
  const days = read.rows.map(({ at }) => at);
  const [first, last] = days.reduce(
    ([from, until], at) => [Math.min(from, at), Math.max(until, at)] as const,
    [Infinity, -Infinity] as const,
  );
  fresh = [...compared.fresh, ...compared.changed];
  return {
    good: read.rows.length + read.clicks.length,
    fileRows: read.good,
    bad: read.bad.length,
    shownBad: read.bad.slice(0, mostBad),
    alike: alikeWords(read.bad),
    from: read.from,
    until: read.until,
    fresh: compared.fresh.length,
    changed: compared.changed.length,
    same: compared.same,
    sums: read.sums,
    before: sumByState(knownIn((at) => at >= first && at <= last)),
    twiceHour: read.twiceHour,
  };
};

const api = {
  /** Reads a file and says how it would be read. Its rows stay here. */
  open: async (
    file: Blob,
    of: Network,
    reports: readonly Report[],
    headerLine?: number,
  ): Promise<OpenedFile | { readonly message: string }> => {
    table = undefined;
    read = undefined;
    gone = [];
    mended.clear();
    const opened = await openTable(new Uint8Array(await file.arrayBuffer()), headerLine);
    if (!opened.ok) return { message: opened.message };
    ({ table } = opened);
    earlier = amountsOf(foldReports(reports).values(), of.id);
    const { aside, headerLine: at } = opened.table;
    return {
      format: opened.format,
      header: table.header,
      sample: table.rows.slice(0, sampleRows),
      rows: table.rows.length,
      aside: aside.slice(0, mostAside),
      asideCount: aside.length,
      headerLine: at,
      reading: guessReport(table, of, {}, Date.now(), earlier),
    };
  },
  /** Says how the file would be read, with what a person answered. */
  guess: (network: Network, choices: ReportChoices): ReportReading => {
    if (!table) throw new Error('no file');
    return guessReport(table, network, choices, Date.now(), earlier);
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
  /**
   * What the days from `from` up to `until` (milliseconds since 1970 UTC) hold and the file does not list: of earlier reports, and of
   * what we heard.
   */
  unlisted: (from: number, until: number, heard: readonly Heard[]): Unlisted => {
    gone = [];
    // A report of clicks lists no conversion, and concludes nothing of them.
    if (!read || !table || read.rows.length === 0) return { gone: 0, unheard: 0, heard: 0 };
    const caseMatters = network?.postback.caseMatters === true;
    const keys = new Set(read.rows.map(({ key }) => key));
    const txns = new Set(read.rows.map(({ txn }) => txn.trim().toLowerCase()));
    const clicks = new Set(read.rows.map(({ click }) => click.trim().toUpperCase().slice(0, keyLetters)));
    // What could not be read may be any of them.
    const unread = new Set(read.bad.flatMap(({ cells }) => cells.map((cell) => cell.trim().toLowerCase())));
    gone = goneRows(
      knownIn(() => true),
      { keys, txns: unread },
      (at) => at >= from && at < until,
      caseMatters,
    );
    const told = heard.filter(({ txn, click }) => txn.trim() !== '' || click.trim() !== '');
    const unheard = told.filter(
      ({ txn, click }) =>
        !txns.has(txn.trim().toLowerCase() || ' ') &&
        !unread.has(txn.trim().toLowerCase() || ' ') &&
        !clicks.has(click.trim().toUpperCase().slice(0, keyLetters) || ' '),
    );
    return { gone: gone.length, unheard: unheard.length, heard: told.length };
  },
  /** What is to be kept, as records; of a report that lists only a part nothing is concluded. */
  parts: (more: {
    readonly network: string;
    readonly batch: string;
    readonly file: string;
    readonly at: number;
    readonly from: string;
    readonly until: string;
    readonly part: boolean;
  }): Report[] =>
    read ? reportParts({ ...more, rows: fresh, clicks: read.clicks, gone: more.part ? [] : gone }) : [],
};

export type ReportWorker = typeof api;

expose(api);
