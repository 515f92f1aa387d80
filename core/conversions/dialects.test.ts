import { describe, expect, it } from 'vitest';
import type { Report, ReportProfile, ReportRole } from '#core/catalogue';
import { openTable } from '#core/formats';
import { dayIn } from '#core/hop';
import { knownNetworks } from '#core/link-parts';
import type { ReadReport, ReportReading, ReportTable } from './index.ts';
import { compareRows, foldReports, goneRows, guessReport, readReport, reportParts } from './index.ts';
import type { Axis, Dialect, DrawnFile, Truth } from './testing/dialects.ts';
import { axes, drawDialects, drawFile, irregularities, withTime } from './testing/dialects.ts';
import type { Column } from './testing/dialectWords.ts';
import { headings } from './testing/dialectWords.ts';
import { dateKind, moneyKind, roleNamed, speaksOfItem } from './reportHeadings.ts';
import { writeFile } from './testing/writeDialect.ts';

const files = Number(process.env['DIALECTS'] ?? 200);
const seed = Number(process.env['DIALECT_SEED'] ?? 20_261_127);
const now = Date.UTC(2026, 10, 27);
const [known] = knownNetworks;
if (!known) throw new Error('networks ship');

/** The answers of a person who knows the network, one choice each. */
const answer = (
  file: DrawnFile,
  table: ReportTable,
  network: Parameters<typeof guessReport>[1],
  first: ReportReading,
): {
  profile: ReportProfile;
  statuses: Record<string, 'pending' | 'approved' | 'paid' | 'reversed'>;
  choices: number;
} => {
  const headingOf = (column: Column) => file.columns.find(([one]) => one === column)?.[1] ?? '';
  let choices = 0;
  let reading = first;
  if (first.asks.includes('amount') || first.asks.includes('at')) {
    choices += [first.asks.includes('amount'), first.asks.includes('at')].filter(Boolean).length;
    reading = guessReport(
      table,
      network,
      {
        ...(first.asks.includes('amount') && { amount: headingOf('commission') }),
        ...(first.asks.includes('at') && { at: headingOf('date') }),
      },
      now,
    );
  }
  let { profile } = reading;
  const statuses: Record<string, 'pending' | 'approved' | 'paid' | 'reversed'> = {};
  for (const ask of reading.asks)
    switch (ask) {
      case 'dates':
        choices += 1;
        profile = { ...profile, dates: file.order };
        break;
      case 'decimal':
        choices += 1;
        profile = { ...profile, decimal: file.decimal };
        break;
      case 'states':
        for (const { word } of reading.states) {
          choices += 1;
          const meant = file.meaning.get(word);
          if (meant) statuses[word] = meant;
        }
        break;
      case 'orders':
        choices += 1;
        profile = { ...profile, orders: file.dialect.rows.startsWith('items') ? 'items' : 'newest' };
        break;
      case 'twins':
        choices += 1;
        profile = { ...profile, twins: 'each' };
        break;
      case 'epoch':
        choices += 1;
        profile = { ...profile, since1904: true };
        break;
      case 'columns': {
        const roles: Partial<Record<Column, ReportRole>> = { txn: 'txn', date: 'at', commission: 'amount' };
        for (const [column, role] of Object.entries(roles) as [Column, ReportRole][])
          if (profile.columns[headingOf(column)] !== role) {
            choices += 1;
            profile = { ...profile, columns: { ...profile.columns, [headingOf(column)]: role } };
          }
        break;
      }
      default:
        choices += 3;
    }
  return { profile, statuses, choices };
};

/** How what was read differs from the truth, in words; empty where it does not. */
const differences = (read: ReadReport, truth: Truth, file: DrawnFile): string[] => {
  const { zone } = file.network;
  const { ids, currency } = file.dialect;
  const wrong: string[] = [];
  const sales = new Map(read.rows.filter(({ amount }) => (amount ?? 0) >= 0).map((row) => [row.txn, row]));
  for (const [txn, said] of truth.sales) {
    const row = sales.get(txn);
    if (!row) {
      wrong.push(`${txn} is missing`);
      continue;
    }
    sales.delete(txn);
    const day = dayIn(zone, row.at);
    if (row.amount !== said.amount) wrong.push(`${txn}: ${row.amount} for ${said.amount}`);
    if (row.currency !== currency) wrong.push(`${txn}: ${row.currency} for ${currency}`);
    if (row.status !== said.status) wrong.push(`${txn}: ${row.status} for ${said.status}`);
    // Some write no seconds.
    if (withTime.includes(file.dialect.dates) && Math.abs(row.at - said.at) >= 60_000)
      wrong.push(`${txn}: ${new Date(row.at).toISOString()} for ${new Date(said.at).toISOString()}`);
    if (day !== said.day) wrong.push(`${txn}: ${day} for ${said.day}`);
    const click =
      ids === 'small letters'
        ? said.click.toLowerCase()
        : ids === 'cut'
          ? said.click.slice(0, 20)
          : said.click;
    if (row.click !== click) wrong.push(`${txn}: click ${row.click} for ${click}`);
    if (row.program !== said.program) wrong.push(`${txn}: program ${row.program} for ${said.program}`);
    if (file.dialect.coupons !== 'none' && (row.coupon ?? '') !== said.coupon)
      wrong.push(`${txn}: coupon ${row.coupon} for ${said.coupon}`);
  }
  for (const [txn] of sales) wrong.push(`${txn} is none of theirs`);
  const refunds = read.rows
    .flatMap(({ txn, at, amount }) =>
      amount !== null && amount < 0 ? [`${txn} ${dayIn(zone, at)} ${amount}`] : [],
    )
    .sort();
  if (refunds.join() !== truth.refunds.join())
    wrong.push(`refunds ${refunds.join()} for ${truth.refunds.join()}`);
  // The sums a person sees before anything is brought in are those of the rows as they stand.
  const shown = read.sums.reduce((sum, { minor }) => sum + (minor ?? 0), 0);
  const counted =
    file.dialect.rows === 'states one after another'
      ? [...truth.sales.values()].reduce((sum, { amount }) => sum + amount, 0) +
        truth.refunds.reduce((sum, text) => sum + Number(text.split(' ').at(-1)), 0)
      : truth.rows.reduce((sum, { commission }) => sum + commission, 0);
  if (shown !== counted) wrong.push(`sums ${shown} for ${counted}`);
  return wrong;
};

/** How what both files together say differs from the truth: the newest word on each sale, and what is listed no longer. */
const afterBoth = (file: DrawnFile, later: Truth, kept: readonly Report[], read: ReadReport): string[] => {
  const known = foldReports(kept);
  const { fresh, changed } = compareRows(known, 'net_h', read.rows);
  const listed = { keys: new Set(read.rows.map(({ key }) => key)), txns: new Set<string>() };
  const gone = goneRows(known.values(), listed, () => true);
  const parts = reportParts({
    network: 'net_h',
    batch: 'b',
    file: 'b',
    at: 2,
    from: read.from,
    until: read.until,
    rows: [...fresh, ...changed],
    clicks: [],
    gone,
  });
  const rows = [...foldReports([...kept, ...parts]).values()];
  const sales = new Map(rows.filter(({ refundOf }) => refundOf === undefined).map((row) => [row.txn, row]));
  const wrong: string[] = [];
  for (const [txn, { status, amount }] of later.sales) {
    const row = sales.get(txn);
    if (row?.status !== status || row.amount !== amount || row.gone !== undefined)
      wrong.push(`${txn} is ${row?.status} ${row?.amount} in the end, for ${status} ${amount}`);
  }
  for (const txn of file.dropped)
    if (sales.get(txn)?.gone === undefined) wrong.push(`${txn} is listed still`);
  return wrong;
};

interface Outcome {
  readonly dialect: Dialect;
  readonly as: 'right' | 'asked' | 'refused' | 'wrong' | 'too many choices';
  readonly words: string;
  readonly asks: readonly string[];
}

/** Reads a file as a person would have it read, with the answers a person would give, and compares it with the truth. */
const outcomeOf = async (dialect: Dialect, n: number): Promise<Outcome> => {
  const file = drawFile(dialect, n);
  const base = {
    ...known,
    id: 'net_h',
    ...file.network,
    postback: {
      ...known.postback,
      statuses: dialect.states === 'taught before' ? Object.fromEntries(file.meaning) : {},
      key: 'k',
      pixelKey: 'p',
    },
  };
  const { report: _, ...network } = base;
  const said = (as: Outcome['as'], words: string, asks: readonly string[] = []): Outcome => ({
    dialect,
    as,
    words,
    asks,
  });
  const opened = await openTable(await writeFile(file, file.truth, n));
  if (!opened.ok) return said('refused', opened.message);
  const { table } = opened;
  const reading = guessReport(table, network, {}, now);
  const { profile, statuses, choices } = answer(file, table, network, reading);
  const taught = {
    ...network,
    postback: { ...network.postback, statuses: { ...network.postback.statuses, ...statuses } },
  };
  const read = readReport(table, profile, taught);
  const wrong = differences(read, file.truth, file);
  const asks = reading.asks;
  if (wrong.length > 0)
    return read.bad.length > 0 && wrong.every((words) => / is missing$|^sums |^refunds /.test(words))
      ? said('refused', read.bad[0]?.problems[0]?.message ?? '', asks)
      : said('wrong', `${wrong.slice(0, 3).join('; ')} | ${JSON.stringify(profile.columns)}`, asks);
  if (read.bad.length > 0) return said('refused', read.bad[0]?.problems[0]?.message ?? '', asks);
  if (choices > 2)
    return said(
      'too many choices',
      `${choices}: ${asks.join()} ${JSON.stringify(statuses)} ${JSON.stringify(profile)}`,
      asks,
    );
  // The same again, learned: nothing is asked, and nothing is new.
  const kept = reportParts({
    network: 'net_h',
    batch: 'a',
    file: 'a',
    at: 1,
    from: read.from,
    until: read.until,
    rows: read.rows,
    clicks: [],
  });
  const learned = { ...taught, report: profile };
  const again = guessReport(table, learned, {}, now);
  const second = readReport(table, again.profile, learned);
  const same = compareRows(foldReports(kept), 'net_h', second.rows);
  if (again.asks.length > 0 || same.fresh.length + same.changed.length > 0)
    return said(
      'wrong',
      `the same again: asks ${again.asks.join()}, ${same.fresh.length} new, ${same.changed.length} changed`,
      asks,
    );
  if (file.later) {
    const next = await openTable(await writeFile(file, file.later, n));
    if (!next.ok) return said('wrong', `the later one: ${next.message}`);
    const laterReading = guessReport(next.table, learned, {}, now);
    // A word that stands in the later one first is asked about then.
    const newWords = laterReading.states.flatMap(({ word }) => {
      const meant = file.meaning.get(word);
      return meant ? [[word, meant] as const] : [];
    });
    const laterRead = readReport(next.table, laterReading.profile, {
      ...learned,
      postback: {
        ...learned.postback,
        statuses: { ...learned.postback.statuses, ...Object.fromEntries(newWords) },
      },
    });
    const off = [
      ...differences(laterRead, file.later, file),
      ...afterBoth(file, file.later, kept, laterRead),
    ];
    if (off.length > 0 || laterReading.asks.some((ask) => ask !== 'states'))
      return said(
        'wrong',
        `the later one: asks ${laterReading.asks.join()}, ${off.slice(0, 3).join('; ')}`,
        asks,
      );
  }
  return said(
    reading.asks.length > 0 ? 'asked' : 'right',
    reading.asks.length > 0
      ? JSON.stringify(reading.candidates.amount) +
          table.header.join() +
          JSON.stringify(table.rows.slice(0, 3))
      : '',
    asks,
  );
};

/** What each heading of a column has to be told for; a click ID is told by what stands in it too. */
const toldFor: Partial<Record<Column, (heading: string) => boolean>> = {
  txn: (heading) => roleNamed(heading)?.role === 'txn' && moneyKind(heading) === undefined,
  date: (heading) => dateKind(heading) !== 'other' && moneyKind(heading) === undefined,
  clickDate: (heading) => dateKind(heading) === 'other' && moneyKind(heading) === undefined,
  approvalDate: (heading) => dateKind(heading) === 'other' && moneyKind(heading) === undefined,
  program: (heading) => roleNamed(heading)?.role === 'program' && moneyKind(heading) === undefined,
  status: (heading) => roleNamed(heading)?.role === 'status' && moneyKind(heading) === undefined,
  commission: (heading) => ['commission', 'amount'].includes(moneyKind(heading) ?? ''),
  value: (heading) => moneyKind(heading) === 'order value',
  rate: (heading) => moneyKind(heading) === 'rate',
  fee: (heading) => moneyKind(heading) === 'fee',
  currency: (heading) => roleNamed(heading)?.role === 'currency' && moneyKind(heading) === undefined,
  time: (heading) => roleNamed(heading)?.role === 'time' && moneyKind(heading) === undefined,
  item: speaksOfItem,
  coupon: (heading) => roleNamed(heading)?.role === 'coupon' && moneyKind(heading) === undefined,
};

describe('each heading of the dialects', () => {
  it.each(Object.entries(headings))('in %s is told for what it is', (_, columns) => {
    const wrong = Object.entries(columns).flatMap(
      ([column, list]) => list.filter((heading) => toldFor[column as Column]?.(heading) === false), // its keys are columns
    );
    expect(wrong).toEqual([]);
  });
});

describe(`${files} files in drawn dialects`, () => {
  it('are read right, asked about or refused, and never silently wrong', async () => {
    const dialects = drawDialects(files, seed);
    const outcomes: Outcome[] = [];
    for (const [n, dialect] of dialects.entries()) outcomes.push(await outcomeOf(dialect, n));
    const of = (as: Outcome['as']) => outcomes.filter((one) => one.as === as);
    const lines = (Object.keys(axes) as Axis[]).flatMap((axis) =>
      [...new Set<string>(axes[axis])].map((value) => {
        const these = outcomes.filter(({ dialect }) => dialect[axis] === value);
        const count = (as: Outcome['as']) => String(these.filter((one) => one.as === as).length).padStart(6);
        return `${axis.padEnd(12)}${JSON.stringify(value).padEnd(30)}${String(these.length).padStart(6)}${count('right')}${count('asked')}${count('refused')}${count('wrong')}`;
      }),
    );
    const odd = dialects.filter((dialect) => irregularities(dialect) >= 4).length;
    process.stdout.write(
      [
        `${'axis'.padEnd(12)}${'value'.padEnd(30)} files right asked refused wrong`,
        ...lines,
        `${files} files, ${odd} with four irregularities or more: ${of('right').length} right, ${of('asked').length} asked about, ${of('refused').length} refused, ${of('wrong').length} wrong, ${of('too many choices').length} with too many choices`,
        '',
      ].join('\n'),
    );
    if (process.env['DIALECT_WORDS'])
      for (const { as, words, asks, dialect } of outcomes.filter((one) => one.as !== 'right'))
        process.stdout.write(`${as} [${asks.join()}] ${words} ${JSON.stringify(dialect)}\n`);
    expect(of('wrong').map(({ words, dialect }) => `${words} ${JSON.stringify(dialect)}`)).toEqual([]);
    expect(of('too many choices')).toEqual([]);
    expect(of('refused').map(({ words }) => words)).toEqual([]);
    expect(odd).toBeGreaterThan(files / 3);
    // Of a few files chance decides some more.
    expect(of('asked').length).toBeLessThanOrEqual(files * (files < 1000 ? 0.12 : 0.08));
  }, 3_600_000);
});
