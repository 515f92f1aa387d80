import { element } from '#core/catalogue';
import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import type { Network, Report } from '#core/catalogue';
import {
  compareRows,
  foldReports,
  guessReport,
  questionWords,
  likelyCover,
  readReport,
  reportParts,
} from '#core/conversions';
import { openTable } from '#core/formats';
import { dayIn } from '#core/hop';
import type { BalanceLines, BridgeView } from '#core/queries';
import { answersFrom } from '#core/queries';
import { isIntact } from '#core/reconcile';
import { writeAmount } from '#core/values';
import { openDataset } from '../dataFolder.ts';

export interface BalanceOptions {
  readonly data: string;
  readonly network: string;
  /** `2026-10` */
  readonly month: string;
  /** A report that was not imported yet; it is taken along and kept nowhere. */
  readonly report?: string | undefined;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

interface Line {
  readonly what: string;
  readonly ours: string;
  readonly theirs: string;
  readonly pieces: readonly { readonly cause: string; readonly value: string; readonly records: number }[];
  readonly unexplained: string;
}

/** What a closed month rests on, and what changed since. */
interface Closing {
  readonly at: string;
  /** The journal's seal then; empty where none was known. */
  readonly seal: string;
  /** False where the record no longer fits its checksum. */
  readonly intact: boolean;
  /** What the same lines come to now. */
  readonly now: readonly Line[];
  readonly changes: readonly {
    readonly conversion: string;
    readonly change: string;
    readonly currency: string;
    /** The month in which it counts. */
    readonly arrived: string;
  }[];
}

/** A month with one network, as figures for people and machines; a closed one as it was when it was closed. */
export interface MonthBalance {
  readonly network: string;
  readonly month: string;
  readonly lines: readonly Line[];
  readonly closed?: Closing;
  /** Changes of months closed before that count in this one. */
  readonly adjusted: readonly {
    readonly month: string;
    readonly change: string;
    readonly currency: string;
  }[];
  readonly toSettle: readonly { readonly kind: string; readonly count: number; readonly safe: number }[];
  /** Rows of the report that could not be read. */
  readonly badRows: number;
}

const readFile = async (
  path: string,
  network: Network,
  known: readonly Report[],
  now: number,
): Promise<{ parts: Report[]; bad: number }> => {
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(path);
  } catch {
    throw new Error(`${path} cannot be read.`);
  }
  const opened = await openTable(bytes);
  if (!opened.ok) throw new Error(`${path}: ${opened.message}`);
  const reading = guessReport(opened.table, network, {}, now);
  if (reading.asks.length > 0)
    throw new Error(
      `${path} leaves open ${reading.asks.map((what) => questionWords[what]).join(', and ')}. Import a report of ${network.name} in the application once; then it is known how to read them.`,
    );
  const { bad, ...read } = readReport(opened.table, reading.profile, network);
  const caseMatters = () => network.postback.caseMatters === true;
  const { fresh, changed } = compareRows(foldReports(known, caseMatters), network.id, read.rows, caseMatters);
  return {
    parts: reportParts({
      ...likelyCover(read.from, read.until, dayIn(network.zone, now)),
      rows: [...fresh, ...changed],
      clicks: read.clicks,
      network: network.id,
      batch: 'reconcile',
      file: basename(path),
      at: now,
    }),
    bad: bad.length,
  };
};

const lineOf = (what: string, bridge: BridgeView<string>, write: (value: number) => string): Line => ({
  what,
  ours: write(bridge.ours),
  theirs: bridge.reported ? write(bridge.theirs) : 'not reported',
  pieces: bridge.pieces.map(({ cause, value, count }) => ({ cause, value: write(value), records: count })),
  unexplained: bridge.reported ? write(bridge.unexplained) : '',
});

const linesOf = ({ clicks, conversions, commission }: BalanceLines): Line[] => [
  lineOf('clicks', clicks, String),
  lineOf('conversions', conversions, String),
  ...commission.map(({ currency, bridge }) =>
    lineOf(`commission ${currency}`, bridge, (value) => writeAmount(value, currency)),
  ),
];

/**
 * Reconciles a month of a data folder: the same questions as the application's, asked of the same data.
 *
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const reconcileMonth = async (options: BalanceOptions): Promise<MonthBalance> => {
  const { month, now } = options;
  const data = await openDataset(options.data);
  const { networks, reports } = data.records;
  const network = networks.find(
    ({ id, name }) => id === options.network || name.toLowerCase() === options.network.toLowerCase(),
  );
  if (!network)
    throw new Error(
      `${options.network} is none of your networks. Known are ${networks.map(({ id, name }) => `${id} (${name})`).join(', ') || 'none'}.`,
    );
  let badRows = 0;
  if (options.report !== undefined) {
    const { parts, bad } = await readFile(options.report, network, reports, now);
    data.setRecords({ reports: [...reports, ...parts] });
    badRows = bad;
  }
  const ask = answersFrom(data);
  const scope = { network: network.id, month };
  const view = ask.balance(scope);
  const record = data.records.months.find((one) => one.network === network.id && one.month === month);
  const changes = ask.adjustments(network.id);
  const arrived = record
    ? (record.adjusted ?? [])
    : changes.filter((one) => one.arrived === month && one.change !== 0);
  return {
    network: network.id,
    month,
    lines: linesOf(view),
    ...(view.closed &&
      record && {
        closed: {
          at: new Date(record.at).toISOString(),
          seal: record.seal?.hash ?? '',
          intact: await isIntact(record),
          now: linesOf(view.closed.now),
          changes: changes
            .filter((one) => one.month === month)
            .map(({ txn, keys, change, currency, arrived: counts }) => ({
              conversion: txn || (keys[0] ?? ''),
              change: writeAmount(change, currency),
              currency,
              arrived: counts,
            })),
        },
      }),
    adjusted: arrived.map(({ month: whose, change, currency }) => ({
      month: whose,
      change: writeAmount(change, currency),
      currency,
    })),
    toSettle: ask.queue(scope).map(({ kind, count, safe }) => ({ kind, count, safe })),
    badRows,
  };
};

const tableOf = (lines: readonly Line[]): string[] => {
  const rows = [['', 'we recorded', 'they report', 'unexplained']].concat(
    lines.flatMap((line) => [
      [line.what, line.ours, line.theirs, line.unexplained],
      ...line.pieces.map((piece) => [`  ${piece.cause}`, '', piece.value, '']),
    ]),
  );
  const widths = [0, 1, 2, 3].map((i) => Math.max(...rows.map((row) => element(row[i]).length)));
  return rows.map((row) =>
    row
      .map((cell, i) => (i === 0 ? cell.padEnd(element(widths[i])) : cell.padStart(element(widths[i]))))
      .join('  ')
      .trimEnd(),
  );
};

const closingText = ({ at, seal, intact, now, changes }: Closing, lines: readonly Line[]): string[] => [
  `Closed on ${at}: these are its figures of then.`,
  ...(intact ? [] : ['WRONG: they no longer fit their checksum, so somebody altered them.']),
  ...(seal === '' ? [] : [`The journal's seal then: ${seal}`]),
  ...(changes.length === 0 && JSON.stringify(now) === JSON.stringify(lines)
    ? ['Nothing changed since.']
    : ['', 'Now it would be:', ...tableOf(now)]),
  ...changes.map(
    ({ conversion, change, currency, arrived }) =>
      `  ${conversion}: ${change} ${currency}, counts in ${arrived}`,
  ),
];

/** The balance as a table for a terminal. */
export const balanceTable = ({
  network,
  month,
  lines,
  closed,
  adjusted,
  toSettle,
  badRows,
}: MonthBalance): string =>
  [
    `${network}, ${month}`,
    ...tableOf(lines),
    '',
    ...(closed ? [...closingText(closed, lines), ''] : []),
    ...adjusted.map(
      ({ month: whose, change, currency }) => `Adjustment of ${whose}, closed before: ${change} ${currency}`,
    ),
    toSettle.length === 0 ? 'Nothing waits to be settled.' : 'To settle:',
    ...toSettle.map(
      ({ kind, count, safe }) => `  ${kind}: ${count}${safe > 0 ? `, ${safe} safe to accept` : ''}`,
    ),
    ...(badRows > 0 ? [`${badRows} rows of the report could not be read.`] : []),
    '',
  ].join('\n');
