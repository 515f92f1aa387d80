import fc from 'fast-check';
import { knownNetworks } from '#core/link-parts';
import type { Network, Program, Report, ReportRow } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import { hopRecord, postbackRecord } from '../../visits/testing/records.ts';

const start = Date.UTC(2026, 8, 28);
const hour = 3_600_000;
const day = 24 * hour;
const known = knownNetworks[0];
if (!known) throw new Error('networks ship');
const network = (id: string, more: Pick<Network, 'zone' | 'currency'>, postback: object): Network => ({
  ...known,
  id,
  ...more,
  postback: {
    ...known.postback,
    fields: {},
    statuses: { done: 'approved' },
    key: `${id.slice(4)}key`,
    pixelKey: `${id.slice(4)}pix`,
    ...postback,
  },
});
/** One whose later amounts replace, one whose are added, and one that pays again and again. */
export const networks = [
  network('net_a', { zone: 'Europe/Berlin', currency: 'EUR' }, { amounts: 'replace' }),
  network('net_b', { zone: 'Asia/Tokyo', currency: 'JPY' }, { amounts: 'add', caseMatters: true }),
  network(
    'net_c',
    { zone: 'America/Los_Angeles', currency: 'USD' },
    { amounts: 'replace', recurs: ['renewal'] },
  ),
];
export const domain = newDomain('dom_a', 'see.nightledge.example', 'Europe/Berlin');
export const programs = networks.map(({ id, currency }): Program => ({
  id: `prg_${id.slice(4)}`,
  network: id,
  name: `Program ${id}`,
  code: id.slice(4),
  hosts: [],
  state: 'joined',
  terms: [
    { kind: 'fixed', from: '2026-01-01', event: 'lead', amount: 300, currency },
    {
      kind: 'tiers',
      from: '2026-01-01',
      event: 'sale',
      currency,
      steps: [
        { from: 1, amount: 600 },
        { from: 3, amount: 700 },
      ],
    },
  ],
}));
export const links = programs.map(({ id, network: of }) => ({
  id: `lnk_${of.slice(4)}`,
  network: of,
  program: id,
  domain: domain.id,
  slug: of.slice(4),
  destination: 'https://polehouse.example/',
}));
const ids = networks.map(({ id }) => id);
const of = fc.constantFrom(...ids);

const hop = fc.record({
  of,
  wait: fc.oneof(fc.integer({ min: 0, max: 3000 }), fc.integer({ min: 0, max: 2 * day })),
  visitor: fc.integer({ min: 0, max: 3 }),
  kind: fc.constantFrom('plain', 'plain', 'plain', 'robot', 'test', 'prefetch', 'closed', 'HEAD'),
  from: fc.constantFrom('reader', 'letter', 'gateway', 'gateway'),
});
const saying = fc.record({
  of,
  hop: fc.nat({ max: 20 }),
  delay: fc.integer({ min: 0, max: 40 * day }),
  /** Behind the one before: the same again within a minute, and words of the same day. */
  soon: fc.option(fc.constantFrom(0, 20_000, 3 * hour)),
  timed: fc.boolean(),
  txn: fc.constantFrom('T1', 't1', 'T2', 'T3', ''),
  event: fc.constantFrom('sale', 'sale', 'lead', 'renewal'),
  amount: fc.constantFrom('10', '7', '12', '-10', '-7', '-3', ''),
  currency: fc.constantFrom('', '', '', 'EUR'),
  status: fc.constantFrom('pending', 'approved', 'done', 'reversed', ''),
  unread: fc.constantFrom(...Array.from({ length: 9 }, () => ''), '12,34', '€7'),
});
const row = fc.record({
  of,
  txn: fc.constantFrom('T1', 'T2', 'T4', ''),
  event: fc.constantFrom('sale', 'sale', 'lead'),
  at: fc.integer({ min: 0, max: 60 * day }),
  amount: fc.constantFrom(1000, 700, 1200, -1000, -300, null),
  status: fc.constantFrom('pending' as const, 'approved' as const, 'reversed' as const, 'paid' as const),
  later: fc.boolean(),
});

/** A mailing, which gateways look through. */
export const sources = [{ id: 'src_l', source: 'letter', title: '', channel: 'mail', note: '' }];

/** What happened, and what was reported of it. */
export interface World {
  readonly journal: JournalRecord[];
  readonly reports: Report[];
}

/** Small worlds of three networks in three zones: clicks of every kind, postbacks with refunds and items, reports, traces. */
export const worlds: fc.Arbitrary<World> = fc
  .record({
    hops: fc.array(hop, { minLength: 1, maxLength: 40 }),
    burst: fc.constantFrom(0, 0, 25),
    said: fc.array(saying, { maxLength: 14 }),
    rows: fc.array(row, { maxLength: 12 }),
    gone: fc.boolean(),
    clicks: fc.array(
      fc.record({
        of,
        day: fc.integer({ min: 1, max: 6 }),
        label: fc.constantFrom('', 'kit'),
        clicks: fc.nat(9),
      }),
      { maxLength: 6 },
    ),
    traces: fc.array(fc.record({ of, at: fc.integer({ min: 0, max: 50 * day }) }), { maxLength: 2 }),
  })
  .map(({ hops, burst, said, rows, gone, clicks, traces }) => {
    const journal: JournalRecord[] = [];
    let at = start;
    const all = [
      ...hops,
      ...Array.from({ length: burst }, () => ({
        of: 'net_a',
        wait: 100,
        visitor: 9,
        kind: 'plain',
        from: 'reader',
      })),
    ];
    for (const [i, one] of all.entries()) {
      at += one.wait;
      journal.push(
        hopRecord({
          seq: journal.length + 1,
          at,
          click: one.kind === 'prefetch' ? '' : clickId(at, new Uint8Array(10).fill(i)),
          link: `lnk_${one.of.slice(4)}`,
          ...(one.from !== 'reader' && { source: 'letter', hosting: one.from === 'gateway' }),
          visitor: `000000000000000${one.visitor}`,
          test: one.kind === 'test',
          prefetch: one.kind === 'prefetch',
          ua:
            one.kind === 'robot'
              ? 'Examplebot/1.0 (+https://robot.example)'
              : 'Mozilla/5.0 (X11; Linux x86_64)',
          method: one.kind === 'HEAD' ? 'HEAD' : 'GET',
          ...(one.kind === 'closed' && { status: 200, branch: 'after' }),
        }),
      );
    }
    const clicksOf = journal.map((record) => (record.kind === 'hop' ? record.click : ''));
    let last = start;
    for (const [i, one] of said.entries()) {
      const before = said[i - 1];
      const isSame = before?.of === one.of && before.txn === one.txn && before.event === one.event;
      // Only words of one conversion come at the same moment.
      if (one.soon === null) last = start + Math.floor(one.delay / 60_000) * 60_000 + i * 1000;
      else last += one.soon + (isSame ? 0 : 1000 * (i + 1));
      const { amount, unread } = one;
      // Without a transaction, refunds and missing amounts have rules of their own.
      const plain = amount === '' || amount.startsWith('-');
      const txn = one.txn === '' && plain ? 'T9' : one.txn;
      const query = new URLSearchParams({
        click: clicksOf[one.hop % clicksOf.length] ?? '',
        event: one.event,
        ...(one.status !== '' && { status: one.status }),
        ...(one.currency !== '' && { currency: one.currency }),
        ...(txn !== '' && { txn }),
        ...((unread || amount) !== '' && { amount: unread || amount }),
        ...(one.timed && { at: String(Math.floor(last / 1000)) }),
      });
      journal.push(
        postbackRecord({
          seq: journal.length + 1,
          at: Math.floor(last / 1000) * 1000 + (one.timed ? 5000 : 0),
          network: one.of,
          query: query.toString(),
        }),
      );
    }
    for (const one of traces)
      journal.push({
        seq: journal.length + 1,
        at: start + one.at,
        kind: 'trace',
        by: 'person',
        link: `lnk_${one.of.slice(4)}`,
        end: 'reached',
        hops: [],
      } as unknown as JournalRecord);
    const reportRows = rows.map((one, i) => {
      const isBack = one.amount !== null && one.amount < 0;
      const key =
        one.txn === ''
          ? `row ${i}`
          : `${one.txn}|${one.event}${isBack ? `|refund|${i % 3}|${one.amount}` : ''}`;
      const of_ = networks.find(({ id }) => id === one.of);
      const told: ReportRow = {
        key,
        txn: one.txn,
        click: '',
        program: '',
        event: one.event,
        status: one.status,
        amount: one.amount,
        currency: of_?.currency ?? 'EUR',
        at: start + one.at,
      };
      return { of: one.of, later: one.later, told };
    });
    const reports = ids.flatMap((id, n) =>
      [false, true].map((later): Report => {
        const own = reportRows.filter((one) => one.of === id && one.later === later).map(({ told }) => told);
        const earlier = reportRows.filter((one) => one.of === id && !one.later).map(({ told }) => told.key);
        const lacking = earlier.find((key) => !own.some((one) => one.key === key));
        return {
          id: `rep_${n}${later ? 'b' : 'a'}`,
          network: id,
          batch: `b${n}${later ? 'b' : 'a'}`,
          file: 'report.csv',
          at: later ? 2 : 1,
          from: '2026-09-01',
          until: '2026-11-30',
          rows: own,
          clicks: later
            ? []
            : clicks
                .filter((one) => one.of === id)
                .map(({ day: of_, label, clicks: many }) => ({
                  day: `2026-10-0${of_}`,
                  label,
                  clicks: many,
                })),
          ...(later && gone && lacking !== undefined && { gone: [lacking] }),
        };
      }),
    );
    return { journal, reports };
  });
