import type { Link, Network, Program, Report, SourceRecord } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';
import { dayOf, monthOf } from './days.ts';
import type { Request } from './requests.ts';
import { outcomesOf, requestsOf } from './requests.ts';
import { rowsOf } from './rows.ts';
import type { Sale } from './sales.ts';
import { salesOf } from './sales.ts';
import { wordOf } from './words.ts';

/** Everything that is reckoned. */
export interface SlowBooks {
  readonly journal: readonly JournalRecord[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly Pick<Link, 'id' | 'network' | 'program'>[];
  readonly reports: readonly Report[];
  readonly sources?: readonly SourceRecord[];
  /** Zone of our own days. */
  readonly zone: string;
}

/** A month with one network, as it should be. */
export interface SlowMonth {
  readonly requests: number;
  /** Requests by what became of them, traces of a person beside. */
  readonly outcomes: Readonly<Record<string, number>>;
  readonly theirClicks: number;
  readonly unexplainedClicks: number;
  readonly conversions: { readonly ours: number; readonly theirs: number };
  readonly money: Readonly<Record<string, { readonly ours: number; readonly theirs: number }>>;
}

/** The program a conversion earns from: of its report row, else of the only click its ID can be. */
const programOf = (sale: Sale, books: SlowBooks, network: Network, hops: readonly Request[]): string => {
  const txn =
    sale.words
      .find((word) => word.txn !== '')
      ?.txn.trim()
      .toLowerCase() ?? '';
  const [first] = sale.words;
  const rows = books.reports
    .filter((report) => report.network === network.id)
    .flatMap((report) => report.rows)
    .filter((row) => txn !== '' && row.txn.trim().toLowerCase() === txn && row.event === first?.event);
  for (const row of rows) {
    const named = books.programs.find(
      ({ network: of, name, code }) =>
        of === network.id &&
        row.program !== '' &&
        [name, code].some((one) => one.toLowerCase() === row.program.toLowerCase()),
    );
    if (named) return named.id;
  }
  const own = hops.filter((hop) => books.links.find(({ id }) => id === hop.link)?.network === network.id);
  for (const click of [
    sale.words.find((word) => word.click !== '')?.click ?? '',
    ...rows.map((row) => row.click),
  ]) {
    const id = click.trim().toUpperCase();
    if (id.length < 12) continue;
    const exact = own.find((hop) => hop.click === id);
    const begin = own.filter((hop) => hop.click.startsWith(id));
    const hop = exact ?? (begin.length === 1 ? begin[0] : undefined);
    if (hop) return books.links.find((link) => link.id === hop.link)?.program ?? '';
  }
  return '';
};

/**
 * Reckons every month with every network from the lines of the journal and the rows of the reports, as slowly and plainly as
 * can be: what the fast way has to agree with. It shares nothing with it but types.
 */
export const slowReckoning = (books: SlowBooks): Map<string, SlowMonth> => {
  const hops = requestsOf(books.journal);
  const mails = new Set(
    books.sources?.filter(({ channel }) => channel === 'mail').map(({ source }) => source),
  );
  const outcomes = outcomesOf(hops, mails);
  const months = new Map<string, SlowMonth>();
  for (const network of books.networks) {
    const { id, zone } = network;
    const isOwn = (link: string) => books.links.find((one) => one.id === link)?.network === id;
    const words = books.journal.flatMap((record) =>
      record.kind === 'postback' && record.network === id && !record.sample
        ? (wordOf(record, network) ?? [])
        : [],
    );
    const sales = salesOf(words, network).map((sale) => {
      const at = sale.words[0]?.at ?? 0;
      const counts = sale.status !== 'reversed' && sale.words.every((word) => !word.unverified);
      return { ...sale, at, counts, month: monthOf(zone, at) };
    });
    const txnOf = ({ words: all }: Sale) => {
      const txn = all.find((word) => word.txn !== '')?.txn.trim() ?? '';
      return network.postback.caseMatters ? txn : txn.toLowerCase();
    };
    // Of one moment, they are taken by transaction and event.
    const named = (sale: Sale) => `${txnOf(sale)} ${sale.words[0]?.event ?? ''}`;
    sales.sort((a, b) => a.at - b.at || (named(a) < named(b) ? -1 : 1));
    const numbers = new Map<string, number>();
    const firsts: { txn: string; program: string }[] = [];
    const priced = sales.map((sale) => {
      const own = programOf(sale, books, network, hops);
      const txn = txnOf(sale);
      // One that brings no click ID comes from the click of the first of its transaction.
      const first =
        own === '' && txn !== '' && sale.words.every((word) => word.click === '')
          ? firsts.find((one) => one.txn === txn)
          : undefined;
      const program = own === '' ? (first?.program ?? '') : own;
      if (own !== '') firsts.push({ txn, program });
      const terms = books.programs.find((one) => one.id === program)?.terms ?? [];
      const tier = `${program} ${sale.month}`;
      const nth = (numbers.get(tier) ?? 0) + (sale.counts && !sale.isRefund ? 1 : 0);
      numbers.set(tier, nth);
      if (sale.amount !== null) return sale;
      const { event = '' } = sale.words[0] ?? {};
      const day = dayOf(zone, sale.at);
      const held = terms
        .filter((one) => one.from <= day && (one.event === '' || one.event === event))
        .sort((a, b) => (b.event === '' ? 0 : 1) - (a.event === '' ? 0 : 1) || (a.from < b.from ? 1 : -1))[0];
      if (held?.kind === 'fixed') return { ...sale, amount: held.amount, currency: held.currency };
      const step =
        held?.kind === 'tiers'
          ? held.steps.filter((one) => one.from <= Math.max(1, nth)).sort((a, b) => b.from - a.from)[0]
          : undefined;
      return held?.kind === 'tiers' && step
        ? { ...sale, amount: step.amount, currency: held.currency }
        : sale;
    });
    const rows = rowsOf(books.reports, id).map((row) => ({ ...row, month: monthOf(zone, row.at) }));
    const clickRows: { day: string; label: string; clicks: number }[] = [];
    for (const report of [...books.reports].sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1)))
      if (report.network === id)
        for (const row of report.clicks) {
          const before = clickRows.find((one) => one.day === row.day && one.label === row.label);
          if (before) before.clicks = row.clicks;
          else clickRows.push({ ...row });
        }
    const counts = clickRows.filter(
      ({ day, label }) => label === '' || !clickRows.some((one) => one.day === day && one.label === ''),
    );
    const told = counts.map(({ day }) => day).sort();
    const requests = hops.filter((hop) => isOwn(hop.link));
    const traces = books.journal.filter(
      (record) => record.kind === 'trace' && record.by === 'person' && isOwn(record.link),
    );
    const names = new Set([
      ...priced.map(({ month }) => month),
      ...rows.map(({ month }) => month),
      ...requests.map((hop) => monthOf(books.zone, hop.at)),
    ]);
    for (const month of names) {
      const here = requests.filter((hop) => monthOf(books.zone, hop.at) === month);
      const byOutcome: Record<string, number> = {};
      for (const hop of here) {
        const what = outcomes.get(hop) ?? '';
        byOutcome[what] = (byOutcome[what] ?? 0) + 1;
      }
      const theirClicks = counts
        .filter(({ day }) => day.startsWith(month))
        .reduce((sum, { clicks }) => sum + clicks, 0);
      const isTold = (at: number) => {
        const day = dayOf(zone, at);
        return day.startsWith(month) && told.includes(day);
      };
      const comparable =
        requests.filter((hop) => outcomes.get(hop) === 'counted' && isTold(hop.at)).length +
        traces.filter(({ at }) => monthOf(zone, at) === month).length;
      const money: Record<string, { ours: number; theirs: number }> = {};
      const add = (side: 'ours' | 'theirs', currency: string, amount: number | null) => {
        const before = money[currency] ?? { ours: 0, theirs: 0 };
        money[currency] = { ...before, [side]: before[side] + (amount ?? 0) };
      };
      const mine = priced.filter((sale) => sale.counts && sale.month === month);
      const theirs = rows.filter((row) => row.month === month);
      for (const { currency, amount } of mine) add('ours', currency, amount);
      for (const { currency, amount } of theirs) add('theirs', currency, amount);
      months.set(`${id} ${month}`, {
        requests: here.length,
        outcomes: { ...byOutcome, traces: traces.filter(({ at }) => monthOf(zone, at) === month).length },
        theirClicks,
        unexplainedClicks: theirClicks - comparable,
        conversions: {
          ours: mine.filter((sale) => !sale.isRefund).length,
          theirs: theirs.filter((row) => (row.amount ?? 0) >= 0).length,
        },
        money,
      });
    }
  }
  return months;
};
