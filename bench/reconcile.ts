import { isbot } from 'isbot';
import initSql from 'sql.js';
import { knownNetworks } from '#core/link-parts';
import type { Decision, Network, Program, Report, ReportRow } from '#core/catalogue';
import { reportParts } from '#core/conversions';
import type { CaseKind, ReconcileInput } from '#core/reconcile';
import { balanceOf, groupCases, matchAll, rematch, settle } from '#core/reconcile';
import type { PostbackRecord } from '#core/visits';
import { VisitColumns, Classification, defaultRules } from '#core/visits';
import { hops, links } from './world.ts';
import { printTable } from './table.ts';

const runs = Number(process.env['RUNS'] ?? 3);
const million = Number(process.env['ROWS'] ?? 1_000_000);
const [known] = knownNetworks;
if (!known) throw new Error('networks ship');
const networks = [0, 1, 2, 3].map((i): Network => ({
  ...known,
  id: `net_${i}`,
  zone: 'Europe/Berlin',
  postback: { ...known.postback, key: `key${i}`, pixelKey: `pix${i}` },
}));
const programs = Array.from({ length: 20 }, (_, i): Program => ({
  id: `prg_${i}`,
  network: `net_${i % 4}`,
  name: `P${i}`,
  code: String(i),
  hosts: [],
  state: 'joined',
}));
const linkById = new Map(links.map((link) => [link.id, link]));

/** A twentieth of the clicks buys; a third of the IDs come back cut short, a third in lower case, some rows and postbacks are missing. */
const makeBooks = (count: number): ReconcileInput => {
  const columns = new VisitColumns();
  const postbacks: PostbackRecord[] = [];
  const rows = new Map<string, ReportRow[]>();
  /** One of the clicks that bought. */
  let sold = '';
  let n = 0;
  for (const hop of hops(count)) {
    columns.add(hop);
    if (n % 20 === 0 && hop.click !== '') {
      const network = linkById.get(hop.link)?.network ?? '';
      if (network === 'net_0') sold = hop.click;
      const txn = `T${n}`;
      const at = hop.at + 3_600_000;
      const click =
        n % 60 === 0 ? hop.click.slice(0, 20) : n % 60 === 20 ? hop.click.toLowerCase() : hop.click;
      if (n % 400 !== 0)
        postbacks.push({
          seq: count + n,
          kind: 'postback',
          at,
          network,
          via: 'GET',
          query: `click=${click}&event=sale&status=confirmed&amount=13.83&currency=EUR&txn=${txn}&at=${Math.floor(at / 1000)}`,
          body: null,
          ip: '',
        });
      if (n % 500 !== 0) {
        const list = rows.get(network) ?? [];
        rows.set(network, list);
        list.push({
          key: `${txn}|sale`,
          txn,
          click,
          program: '',
          event: 'sale',
          status: 'approved',
          amount: n % 900 === 0 ? 1000 : 1383,
          currency: 'EUR',
          at,
        });
      }
    }
    n += 1;
  }
  // A sender nobody knows, and a refund that comes twice.
  const late = Date.UTC(2026, 9, 20);
  const rare = (at: number, query: string, more: Partial<PostbackRecord> = {}): PostbackRecord => ({
    seq: 3 * count + postbacks.length,
    kind: 'postback',
    at,
    network: 'net_0',
    via: 'GET',
    query,
    body: null,
    ip: '',
    ...more,
  });
  postbacks.push(rare(late, `click=${sold}&txn=U1&amount=5.00`, { unverified: 'sender' }));
  for (const [n, amount] of [35, -5, -5].entries())
    postbacks.push(rare(late + n * 86_400_000, `click=${sold}&txn=D1&amount=${amount}.00`));
  const reports: Report[] = [...rows].flatMap(([network, list]) =>
    reportParts({
      network,
      batch: network.replace('_', ''),
      file: 'report.csv',
      at: 1,
      from: '2026-08-01',
      until: '2026-11-30',
      rows: list,
      clicks: [],
    }),
  );
  const classification = new Classification(columns, isbot, defaultRules);
  classification.update();
  return { columns, classification, postbacks, networks, programs, links, reports, decisions: [] };
};

const isPlain = (txn: string | null | undefined) => txn?.startsWith('T') === true;

const seconds = (work: () => void): number => {
  const begin = performance.now();
  work();
  return (performance.now() - begin) / 1000;
};

/** From columns to balance and queue. */
const whole = (books: ReconcileInput) => {
  const joined = matchAll(books);
  const { units, cases } = settle(joined, []);
  return {
    joined,
    units,
    balance: networks.map(({ id }) => balanceOf(units, { network: id })),
    groups: groupCases(cases),
  };
};

/** The same joins in SQL, on the same data, with the indexes a person would make. */
const inSql = async (books: ReconcileInput) => {
  const sql = await initSql();
  const db = new sql.Database();
  db.run(
    'create table click (id text, row integer); create table postback (click text, txn text, amount integer); create table report (click text, txn text, amount integer);',
  );
  const put = (table: string, width: number, list: Iterable<(string | number)[]>) => {
    db.run('begin');
    const statement = db.prepare(`insert into ${table} values (${Array(width).fill('?').join(',')})`);
    for (const values of list) statement.run(values);
    statement.free();
    db.run('commit');
  };
  put(
    'click',
    2,
    (function* () {
      for (let row = 0; row < books.columns.rows; row++) yield [books.columns.click(row), row];
    })(),
  );
  put(
    'postback',
    3,
    (function* () {
      for (const { query } of books.postbacks) {
        const fields = new URLSearchParams(query);
        // What is folded or not verified has no place in plain joins.
        if (isPlain(fields.get('txn'))) yield [fields.get('click') ?? '', fields.get('txn') ?? '', 1383];
      }
    })(),
  );
  put(
    'report',
    3,
    (function* () {
      for (const { rows } of books.reports)
        for (const row of rows) yield [row.click, row.txn, row.amount ?? 0];
    })(),
  );
  const join = () => {
    const [found] = db.exec(`
      create index if not exists click_id on click(id);
      create index if not exists report_txn on report(txn);
      with matched as (
        select p.txn, p.amount, coalesce(
          (select row from click where id = p.click),
          (select row from click where id = upper(p.click)),
          (select min(row) from click where id >= upper(p.click) and id < upper(p.click) || '~' having count(*) = 1)
        ) as row from postback p)
      select count(m.row), count(r.txn), sum(m.amount), sum(r.amount), sum(case when r.amount <> m.amount then 1 else 0 end)
      from matched m left join report r on r.txn = m.txn`);
    return found?.values[0] ?? [];
  };
  return { join, close: () => db.close() };
};

const main = async (): Promise<void> => {
  const books = makeBooks(million);
  const twice = makeBooks(million * 2);
  const times: number[] = [];
  const doubled: number[] = [];
  const decided: number[] = [];
  const chosen: number[] = [];
  const sqlTimes: number[] = [];
  const amounts: number[] = [];
  const senders: number[] = [];
  const sql = await inSql(books);
  const begin = performance.now();
  const first = whole(books);
  const reading = (performance.now() - begin) / 1000;
  const [one] = first.groups.flatMap((group) => group.cases);
  const matched = first.units.filter((unit) => isPlain(unit.conversion?.txn) && unit.match.row >= 0).length;
  const [sqlMatched] = sql.join();
  if (matched !== sqlMatched) throw new Error(`we matched ${matched}, SQL ${String(sqlMatched)}`);
  const scope = { network: 'net_0', month: '2026-10' };
  const decision = (at: number): Decision => ({
    id: `dec_${at}`,
    case: one?.id ?? '',
    kind: 'write off',
    reason: 'a test order',
    at,
  });
  const idOf = (kind: CaseKind) =>
    first.joined.cases.find((found) => found.kind === kind)?.id ?? `none ${kind}`;
  const [doubtful, unknown] = [idOf('doubtful amount'), idOf('not verified')];
  const other = books.columns.click(books.columns.rows - 1);
  const choice = (at: number): Decision => ({ ...decision(at), kind: 'choose', click: other });
  for (let run = 0; run < runs; run++) {
    times.push(seconds(() => whole(books)));
    doubled.push(seconds(() => whole(twice)));
    sqlTimes.push(seconds(() => sql.join()));
    decided.push(1000 * seconds(() => void balanceOf(settle(first.joined, [decision(run)]).units, scope)));
    const choices = [choice(run)];
    chosen.push(
      1000 *
        seconds(() => {
          const joined = rematch(first.joined, { ...books, decisions: choices });
          if (!joined) throw new Error('all of it was matched anew');
          balanceOf(settle(joined, choices).units, scope);
        }),
    );
    for (const [list, id] of [
      [amounts, doubtful],
      [senders, unknown],
    ] as const)
      list.push(
        1000 *
          seconds(() => {
            const decisions = [{ ...decision(run), case: id, kind: 'accept' as const }];
            const joined = rematch(first.joined, { ...books, decisions });
            if (!joined) throw new Error('all of it was matched anew');
            balanceOf(settle(joined, decisions).units, scope);
          }),
      );
  }
  sql.close();
  const median = (values: number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
  printTable(
    `Reconciling ${million} clicks, ${books.postbacks.length} postbacks and ${books.reports.reduce((sum, report) => sum + report.rows.length, 0)} report rows, medians of ${runs} runs`,
    [
      { what: 'seconds from columns to balance and queue', values: times, most: 2 },
      {
        what: 'twice the data ÷ once',
        values: doubled.map((time, i) => time / (times[i] ?? NaN)),
        most: 2.2,
      },
      { what: 'seconds the first time, with every postback and report row read', values: [reading] },
      ...(
        [
          ['a decision', decided],
          ['choosing a click', chosen],
          ['believing an amount', amounts],
          ['believing a sender', senders],
        ] as const
      ).map(([what, values]) => ({
        what: `${what} to the balance ÷ the whole`,
        values: values.map((ms, i) => ms / 1000 / (times[i] ?? NaN)),
        most: 0.05,
      })),
      { what: 'SQL joins (sql.js, indexed) ÷ ours', values: [median(sqlTimes) / median(times)], least: 0.2 },
    ],
  );
};

main().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
