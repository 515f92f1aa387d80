import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import type { Network, Report } from '#core/catalogue';
import {
  compareRows,
  foldClicks,
  foldReports,
  guessReport,
  likelyCover,
  readReport,
  reportParts,
  writeAmount,
} from '#core/conversions';
import { openReport } from '#core/formats';
import type { Bridge } from '#core/reconcile';
import { balanceOf, bridgeClicks, groupCases, reconcile } from '#core/reconcile';
import type { JournalRecord } from '#core/visits';
import { readWire } from '#core/visits';
import { KeptCatalogue, readJournalFiles } from './records.ts';

export interface NightOptions {
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
  readonly leftOver: string;
}

/** A month with one network, as figures for people and machines. */
export interface NightBalance {
  readonly network: string;
  readonly month: string;
  readonly lines: readonly Line[];
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
  const opened = await openReport(bytes);
  if (!opened.ok) throw new Error(`${path}: ${opened.message}`);
  const reading = guessReport(opened.table, network);
  if (reading.asks.length > 0)
    throw new Error(
      `${path}: ${reading.because} Import a report of ${network.name} in the application once; then it is known how to read them.`,
    );
  const { bad, ...read } = readReport(opened.table, reading.profile, network);
  const { fresh, changed } = compareRows(foldReports(known), network.id, read.rows);
  return {
    parts: reportParts({
      ...likelyCover(read.from, read.until, new Date(now).toISOString().slice(0, 10)),
      rows: [...fresh, ...changed],
      clicks: read.clicks,
      network: network.id,
      batch: 'night',
      file: basename(path),
      at: now,
    }),
    bad: bad.length,
  };
};

/**
 * Reconciles a month of a data folder with the same core as the application.
 *
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const reconcileMonth = async (options: NightOptions): Promise<NightBalance> => {
  const { data, month, now } = options;
  const catalogue = new KeptCatalogue(data);
  const networks = catalogue.all('network');
  const network = networks.find(
    ({ id, name }) => id === options.network || name.toLowerCase() === options.network.toLowerCase(),
  );
  if (!network)
    throw new Error(
      `${options.network} is none of your networks. Known are ${networks.map(({ id, name }) => `${id} (${name})`).join(', ') || 'none'}.`,
    );
  const links = catalogue.all('link');
  const reports = catalogue.all('report');
  const taken =
    options.report === undefined
      ? { parts: [], bad: 0 }
      : await readFile(options.report, network, reports, now);
  const records: JournalRecord[] = [];
  for await (const record of readJournalFiles(data)) records.push(record);
  const { sieve: rules } = catalogue.all('settings')[0] ?? {};
  const wire = readWire(records, rules);
  const all = [...reports, ...taken.parts];
  const { units, cases } = reconcile({
    ...wire,
    networks,
    programs: catalogue.all('program'),
    links,
    reports: all,
    decisions: catalogue.all('decision'),
  });
  const own = new Set(links.filter((link) => link.network === network.id).map((link) => link.id));
  const clicks = bridgeClicks({
    ...wire,
    reported: [...foldClicks(all).values()].filter((row) => row.network === network.id),
    isLink: (link) => own.has(link),
    isSource: () => true,
    isLabel: () => true,
    zone: catalogue.all('domain')[0]?.zone ?? 'UTC',
    theirZone: network.zone,
    month,
  });
  const { conversions, commission } = balanceOf(units, { network: network.id, month });
  const line = (what: string, bridge: Bridge, write: (value: number) => string): Line => ({
    what,
    ours: write(bridge.ours),
    theirs: write(bridge.theirs),
    pieces: bridge.pieces.map(({ cause, value, ids }) => ({
      cause,
      value: write(value),
      records: ids.length,
    })),
    leftOver: write(bridge.leftOver),
  });
  return {
    network: network.id,
    month,
    lines: [
      {
        what: 'clicks',
        ours: String(clicks.ours),
        theirs: clicks.reported ? String(clicks.theirs) : 'not reported',
        pieces: clicks.pieces.map(({ cause, value, records: of }) => ({
          cause,
          value: String(value),
          records: of.length,
        })),
        leftOver: clicks.reported ? String(clicks.leftOver) : '',
      },
      line('conversions', conversions, String),
      ...[...commission].map(([currency, bridge]) =>
        line(`commission ${currency}`, bridge, (value) => writeAmount(value, currency)),
      ),
    ],
    toSettle: groupCases(cases.filter((one) => one.network === network.id && one.month === month)).map(
      ({ kind, cases: of, safe }) => ({ kind, count: of.length, safe }),
    ),
    badRows: taken.bad,
  };
};

/** The balance as a table for a terminal. */
export const nightTable = ({ network, month, lines, toSettle, badRows }: NightBalance): string => {
  const rows = [['', 'we recorded', 'they report', 'left over']].concat(
    lines.flatMap((line) => [
      [line.what, line.ours, line.theirs, line.leftOver],
      ...line.pieces.map((piece) => [`  ${piece.cause}`, '', piece.value, '']),
    ]),
  );
  const widths = [0, 1, 2, 3].map((i) => Math.max(...rows.map((row) => (row[i] ?? '').length)));
  const table = rows.map((row) =>
    row
      .map((cell, i) => (i === 0 ? cell.padEnd(widths[i] ?? 0) : cell.padStart(widths[i] ?? 0)))
      .join('  ')
      .trimEnd(),
  );
  return [
    `${network}, ${month}`,
    ...table,
    '',
    toSettle.length === 0 ? 'Nothing waits to be settled.' : 'To settle:',
    ...toSettle.map(
      ({ kind, count, safe }) => `  ${kind}: ${count}${safe > 0 ? `, ${safe} safe to accept` : ''}`,
    ),
    ...(badRows > 0 ? [`${badRows} rows of the report could not be read.`] : []),
    '',
  ].join('\n');
};
