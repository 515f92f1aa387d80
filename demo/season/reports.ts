import { calendarDay, dayName } from '#core/hop';
import type { StatementRow } from '../../standins/index.ts';
import { kinds } from '../../standins/index.ts';
import { Chance } from './random.ts';
import type { Made } from './catalogue.ts';
import type { Visit } from './people.ts';
import type { Fault, Sale } from './sale.ts';
import type { JournalDraft } from '#core/visits';

type Trace = Extract<JournalDraft, { kind: 'trace' }>;

/** A report as a network hands it out. */
export interface ReportFile {
  readonly network: string;
  readonly name: string;
  readonly kind: 'conversions' | 'clicks';
  readonly text: string;
}

type Row = Sale & { readonly report: NonNullable<Sale['report']> };

/** A sale as the report of its network has it. */
const rowOf = ({ txn, program, event, report }: Row, made: Made): StatementRow => {
  const { code = '', name = '' } = made.programs.find((one) => one.id === program) ?? {};
  const { click, state, amount: minor, currency, at } = report;
  return {
    order: txn,
    at,
    offer: code === '' ? program.slice(4) : code,
    merchant: name,
    slots: [click],
    event,
    state,
    commission: { minor, currency },
  };
};

/** The rows a sale makes in a report: one, one for each of its items, and one for what was taken back of it. */
const rowsOf = (sale: Row): Row[] => {
  const { items, refund, report } = sale;
  const parts = items?.map((amount): Row => ({ ...sale, report: { ...report, amount } })) ?? [sale];
  return refund?.reported
    ? [...parts, { ...sale, report: { ...report, at: refund.at, amount: refund.amount } }]
    : parts;
};

/**
 * The reports of conversions, a file a network and month of its own calendar; and where a network listed what it takes out later,
 * that month corrected.
 */
export const conversionReports = (made: Made, sales: readonly Sale[]): ReportFile[] => {
  const files = new Map<string, { network: string; name: string; lines: string[] }>();
  const reported = sales.filter((sale): sale is Row => sale.report !== undefined);
  const rows = reported.flatMap(rowsOf).sort((a, b) => a.report.at - b.report.at || (a.txn < b.txn ? -1 : 1));
  const monthOf = ({ network, report }: Row) => {
    const zone = made.networks.find(({ id }) => id === network)?.zone ?? 'UTC';
    return dayName(calendarDay(zone, report.at)).slice(0, 7);
  };
  const corrected = new Set(
    reported.flatMap((sale) => (sale.dropped ? [`${sale.network} ${monthOf(sale)}`] : [])),
  );
  const put = (row: Row, version: '' | '-corrected') => {
    const writer = kinds.find((kind) => row.network === `net_${kind.id}`)?.report;
    if (!writer) return;
    const month = monthOf(row);
    const key = `${row.network} ${month}${version}`;
    const file = files.get(key) ?? {
      network: row.network,
      name: writer.file.replace('.', `-${month}${version}.`),
      lines: [writer.head],
    };
    file.lines.push(writer.line(rowOf(row, made)));
    files.set(key, file);
  };
  for (const row of rows) put(row, '');
  for (const row of rows)
    if (!row.dropped && corrected.has(`${row.network} ${monthOf(row)}`)) put(row, '-corrected');
  return [...files.values()].map(({ network, name, lines }) => ({
    network,
    name,
    kind: 'conversions',
    text: `${lines.join('\r\n')}\r\n`,
  }));
};

/** Rows of Harrowmead and Kelvane that count clicks by the day; the fault is a day on which a third was not counted. */
export const clickReports = (
  made: Made,
  visits: readonly Visit[],
  counted: (visit: Visit) => boolean,
  traces: readonly Trace[],
  seed: number,
  until: number,
): { readonly files: readonly ReportFile[]; readonly faults: readonly Fault[] } => {
  const chance = new Chance(seed ^ 0xc11c);
  const networkOf = new Map(made.links.map((link) => [link.id, link.network]));
  const files: ReportFile[] = [];
  const faults: Fault[] = [];
  for (const [network, short] of [
    ['net_harrowmead', -1],
    ['net_kelvane', 0.55],
  ] as const) {
    const zone = made.networks.find((one) => one.id === network)?.zone ?? 'UTC';
    const days = new Map<number, number>();
    for (const visit of visits)
      if (networkOf.get(visit.hop.link) === network && counted(visit)) {
        const day = calendarDay(zone, visit.hop.at);
        if (day <= until) days.set(day, (days.get(day) ?? 0) + 1);
      }
    // The network takes a trace for one more click.
    for (const { link, at } of traces)
      if (networkOf.get(link) === network) {
        const day = calendarDay(zone, at);
        if (day <= until) days.set(day, (days.get(day) ?? 0) + 1);
      }
    const list = [...days.keys()].sort((a, b) => a - b);
    const bad = short < 0 ? -1 : (list[Math.floor(list.length * short)] ?? -1);
    const lines = network === 'net_harrowmead' ? ['Day;Clicks'] : ['"Date","Clicks"'];
    for (const day of list) {
      const all = days.get(day) ?? 0;
      // A few get lost on the way to every network: less than three in a hundred.
      const arrived = Math.max(0, all - Math.floor(all * 0.025 * chance.next()));
      const clicks = day === bad ? Math.round(all * 0.62) : arrived;
      if (day === bad) faults.push({ kind: 'clicks differ', network, key: dayName(day) });
      const [year = '', month = '', date = ''] = dayName(day).split('-');
      lines.push(
        network === 'net_harrowmead'
          ? `${date}.${month}.${year};${clicks}`
          : `"${month}/${date}/${year}","${clicks}"`,
      );
    }
    files.push({
      network,
      name: network === 'net_harrowmead' ? 'harrowmead-clicks.csv' : 'kelvane-clicks.csv',
      kind: 'clicks',
      text: `${lines.join('\r\n')}\r\n`,
    });
  }
  return { files, faults };
};
