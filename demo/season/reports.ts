import { calendarDay, dayName, offsetIn } from '#core/hop';
import { Chance } from './random.ts';
import type { Made } from './catalogue.ts';
import type { Visit } from './people.ts';
import type { Fault, Sale } from './sales.ts';

/** A report as a network hands it out. */
export interface ReportFile {
  readonly network: string;
  readonly name: string;
  readonly kind: 'conversions' | 'clicks';
  readonly text: string;
}

const two = (n: number) => String(n).padStart(2, '0');

/** A zone's clock at a moment. */
const clockOf = (zone: string, at: number) => {
  const local = new Date(at + offsetIn(zone, at));
  return {
    year: local.getUTCFullYear(),
    month: local.getUTCMonth() + 1,
    day: local.getUTCDate(),
    hour: local.getUTCHours(),
    minute: local.getUTCMinutes(),
    second: local.getUTCSeconds(),
  };
};
const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const grouped = (whole: string, sign: string) => whole.replace(/\B(?=(\d{3})+$)/g, sign);

const states: Readonly<Record<string, Readonly<Record<'pending' | 'approved' | 'reversed', string>>>> = {
  net_harrowmead: { pending: 'open', approved: 'confirmed', reversed: 'cancelled' },
  net_kelvane: { pending: 'hold', approved: 'accepted', reversed: 'rejected' },
  net_osprenet: { pending: 'new', approved: 'ok', reversed: 'void' },
  net_vennor: { pending: 'Pending', approved: 'Approved', reversed: 'Reversed' },
};

type Row = Sale & { readonly report: NonNullable<Sale['report']> };

/** Each network's own way to write a sale. */
const writers: Readonly<
  Record<
    string,
    { readonly name: string; readonly head: string; readonly line: (row: Row, made: Made) => string }
  >
> = {
  net_harrowmead: {
    name: 'harrowmead-orders.csv',
    head: 'Order;Time;Deal;Ref1;Ref2;Commission;Currency;State',
    line: ({ txn, program, report }) => {
      const t = clockOf('Europe/Berlin', report.at);
      const [whole = '', cents = ''] = (report.amount / 100).toFixed(2).split('.');
      return [
        txn,
        `${two(t.day)}.${two(t.month)}.${t.year} ${two(t.hour)}:${two(t.minute)}:${two(t.second)}`,
        program.slice(4),
        report.click,
        '',
        `${grouped(whole, '.')},${cents}`,
        report.currency,
        states['net_harrowmead']?.[report.state] ?? '',
      ].join(';');
    },
  },
  net_kelvane: {
    name: 'kelvane-leads.csv',
    head: '"Lead ID","Campaign","k1","Goal","Result","Payout","Date","Time"',
    line: ({ txn, program, event, report }, made) => {
      const t = clockOf('America/Los_Angeles', report.at);
      const name = made.programs.find((one) => one.id === program)?.name ?? '';
      return [
        txn,
        name,
        report.click,
        event,
        states['net_kelvane']?.[report.state] ?? '',
        `$${(report.amount / 100).toFixed(2)}`,
        `${two(t.month)}/${two(t.day)}/${t.year}`,
        `${t.hour % 12 === 0 ? 12 : t.hour % 12}:${two(t.minute)}:${two(t.second)} ${t.hour < 12 ? 'AM' : 'PM'}`,
      ]
        .map((cell) => `"${cell}"`)
        .join(',');
    },
  },
  net_osprenet: {
    name: 'osprenet-rewards.tsv',
    head: 'id\tcreated\ttag\treward\tcur\tstatus',
    line: ({ txn, report }) =>
      [
        txn,
        new Date(Math.floor(report.at / 1000) * 1000).toISOString().replace('.000Z', 'Z'),
        report.click,
        report.currency === 'JPY' ? grouped(String(report.amount), ',') : (report.amount / 100).toFixed(2),
        report.currency,
        states['net_osprenet']?.[report.state] ?? '',
      ].join('\t'),
  },
  net_vennor: {
    name: 'vennor-friends.csv',
    head: 'Reference,Date,Note,Reward,Status',
    line: ({ txn, report }) => {
      const t = clockOf('Europe/London', report.at);
      return [
        txn,
        `${t.day} ${months[t.month - 1] ?? ''} ${t.year} ${two(t.hour)}:${two(t.minute)}`,
        report.click,
        `£${(report.amount / 100).toFixed(2)}`,
        states['net_vennor']?.[report.state] ?? '',
      ].join(',');
    },
  },
};

/** The reports of conversions, a file a network and month of its own calendar. */
export const conversionReports = (made: Made, sales: readonly Sale[]): ReportFile[] => {
  const files = new Map<string, { network: string; name: string; lines: string[] }>();
  const rows = sales
    .filter((sale): sale is Row => sale.report !== undefined)
    .sort((a, b) => a.report.at - b.report.at || (a.txn < b.txn ? -1 : 1));
  for (const row of rows) {
    const writer = writers[row.network];
    if (!writer) continue;
    const zone = made.networks.find((network) => network.id === row.network)?.zone ?? 'UTC';
    const month = dayName(calendarDay(zone, row.report.at)).slice(0, 7);
    const key = `${row.network} ${month}`;
    const file = files.get(key) ?? {
      network: row.network,
      name: writer.name.replace('.', `-${month}.`),
      lines: [writer.head],
    };
    file.lines.push(writer.line(row, made));
    files.set(key, file);
  }
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
