import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import type { Decision, Network, Program, Report, ReportRow } from '#core/catalogue';
import type { Conversion, Reported } from '#core/conversions';
import { foldReports } from '#core/conversions';
import { clickId, monthIn } from '#core/hop';
import type { HopRecord, JournalRecord } from '#core/visits';
import { classified } from '../visits/testing/classified.ts';
import type { ReconcileInput, Unit } from './index.ts';
import { balanceOf, groupCases, matchAll, ledgerOf, rematch, reconcile, settle } from './index.ts';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { tieredProgram } from './testing/books.ts';

const start = Date.UTC(2026, 8, 28);
const hour = 3_600_000;
const day = 24 * hour;
const zone = 'Europe/Berlin';
const known = knownNetworks[0];
if (!known) throw new Error('networks ship');
const network = (id: string): Network => ({
  ...known,
  id,
  zone,
  postback: { ...known.postback, fields: {}, key: `${id.slice(4)}key`, pixelKey: `${id.slice(4)}pix` },
});
const networks = [network('net_a'), network('net_b')];
const links = [
  { id: 'lnk_a1', network: 'net_a', program: 'prg_1' },
  { id: 'lnk_a2', network: 'net_a', program: 'prg_2' },
  { id: 'lnk_b1', network: 'net_b', program: 'prg_3' },
];
const programs = links.map(({ program, network: of }): Program => {
  // What the first of them pays depends on how many came before in the month.
  const { terms, ...plain } = tieredProgram(of, 2, program);
  return program === 'prg_1' && terms ? { ...plain, terms } : plain;
});

interface World {
  readonly journal: readonly JournalRecord[];
  readonly reports: readonly Report[];
}

const cut = (click: string, how: string): string => {
  switch (how) {
    case 'lower':
      return click.toLowerCase();
    case 'cut':
      return click.slice(0, 20);
    case 'short':
      return click.slice(0, 13);
    case 'unfilled':
      return '{k1}';
    case 'none':
      return '';
    case 'stranger':
      return 'pub-5150-aaaa';
    default:
      return click;
  }
};
const how = fc.constantFrom('whole', 'whole', 'lower', 'cut', 'short', 'unfilled', 'none', 'stranger');

/** Small random worlds: a few clicks, postbacks about them, and a report that agrees or does not. */
const worlds: fc.Arbitrary<World> = fc
  .record({
    hops: fc.array(
      fc.record({
        wait: fc.integer({ min: 0, max: 2 * day }),
        link: fc.constantFrom('lnk_a1', 'lnk_a2', 'lnk_b1', 'lnk_own'),
        // Few letters, so that IDs begin alike.
        tail: fc.integer({ min: 0, max: 3 }),
        test: fc.constantFrom(false, false, false, true),
      }),
      { minLength: 1, maxLength: 7 },
    ),
    said: fc.array(
      fc.record({
        hop: fc.nat({ max: 9 }),
        delay: fc.integer({ min: -hour, max: 40 * day }),
        how,
        network: fc.constantFrom('net_a', 'net_b'),
        txn: fc.constantFrom('T1', 'T2', 'T3', 'T4', '', ''),
        amount: fc.constantFrom('10.00', '7.50', ''),
        currency: fc.constantFrom('EUR', 'EUR', 'USD'),
        status: fc.constantFrom('open', 'confirmed', 'cancelled'),
      }),
      { maxLength: 7 },
    ),
    reported: fc.array(
      fc.record({
        hop: fc.nat({ max: 9 }),
        delay: fc.integer({ min: 0, max: 40 * day }),
        how,
        network: fc.constantFrom('net_a', 'net_b'),
        txn: fc.constantFrom('T1', 'T2', 'T3', 'T5', ''),
        amount: fc.constantFrom(1000, 750, 500),
        status: fc.constantFrom('pending' as const, 'approved' as const, 'reversed' as const),
      }),
      { maxLength: 6 },
    ),
  })
  .map(({ hops, said, reported }) => {
    let at = start;
    const journal: JournalRecord[] = hops.map(({ wait, link, tail, test }, i) => {
      at += wait;
      return hopRecord({
        seq: i + 1,
        at,
        click: clickId(Math.floor(at / day) * day, new Uint8Array(10).fill(tail)).slice(0, -1) + String(i),
        link,
        visitor: `00000000000000${String(10 + i)}`,
        test,
      });
    });
    const hopAt = (n: number) => journal[n % hops.length] as HopRecord;
    for (const one of said) {
      const hop = hopAt(one.hop);
      const query = new URLSearchParams({
        click: cut(hop.click, one.how),
        status: one.status,
        currency: one.currency,
        ...(one.txn !== '' && { txn: one.txn }),
        ...(one.amount !== '' && { amount: one.amount }),
      });
      journal.push(
        postbackRecord({
          seq: journal.length + 1,
          at: hop.at + one.delay,
          network: one.network,
          query: query.toString(),
        }),
      );
    }
    const rows = reported.map((one, i): ReportRow & { network: string } => {
      const hop = hopAt(one.hop);
      return {
        network: one.network,
        key: one.txn === '' ? `row ${i}` : `${one.txn}|sale`,
        txn: one.txn,
        click: cut(hop.click, one.how),
        program: '',
        event: 'sale',
        status: one.status,
        amount: one.amount,
        currency: 'EUR',
        at: hop.at + one.delay,
      };
    });
    const reports = networks.map(({ id }, i): Report => ({
      id: `rep_${i}`,
      network: id,
      batch: `b${i}`,
      file: 'report.csv',
      at: i,
      from: '2026-10-01',
      until: '2026-10-31',
      rows: rows.filter((row) => row.network === id).map(({ network: _, ...row }) => row),
      clicks: [],
    }));
    return { journal, reports };
  });

const booksOf = ({ journal, reports }: World, decisions: readonly Decision[] = []): ReconcileInput => ({
  ...classified(journal),
  networks,
  programs,
  links,
  reports,
  decisions,
});
const hopsOf = (world: World) => world.journal.filter((record) => record.kind === 'hop');

/** The rules once more, by nested loops over records, with nothing shared but the ledger. */
const plainMatch = (
  click: string,
  of: string,
  hops: readonly HopRecord[],
): [level: string, hop: HopRecord | undefined] => {
  const text = click.trim();
  if (text === '' || /^\{.*\}$/.test(text)) return ['unfilled', undefined];
  const networkOf = (hop: HopRecord) => links.find((link) => link.id === hop.link)?.network;
  const isOf = (hop: HopRecord) => networkOf(hop) === of;
  // A whole ID on a link that belongs to no network may be anybody's.
  const mayBe = (hop: HopRecord) => isOf(hop) || networkOf(hop) === undefined;
  for (const hop of hops) if (hop.click === click && mayBe(hop)) return ['exact', hop];
  for (const hop of hops) if (hop.click === text.toUpperCase() && mayBe(hop)) return ['folded', hop];
  if (hops.some((hop) => hop.click === text.toUpperCase())) return ['another network', undefined];
  if (text.length >= 12 && text.length < 26) {
    const begin = hops.filter((hop) => hop.click.startsWith(text.toUpperCase()));
    const own = begin.filter(isOf);
    if (own.length === 1) return ['prefix', own[0]];
    const [only, ...more] = begin;
    if (only && more.length === 0 && !mayBe(only)) return ['another network', undefined];
  }
  return [/^[0-9A-Z]{12,26}$/i.test(text) && !text.includes('-') ? 'known form' : 'not ours', undefined];
};

/** One is the other cut short, but for fewer than twelve characters. */
const sameClick = (a: string, b: string): boolean =>
  a === b || (Math.min(a.length, b.length) >= 12 && (a.startsWith(b) || b.startsWith(a)));

const plainJoin = (
  ledger: readonly Conversion[],
  rows: readonly Reported[],
): [Conversion, Reported | undefined][] => {
  const used = new Set<Reported>();
  const joined = new Map<Conversion, Reported>();
  const steps: ((c: Conversion, r: Reported) => boolean)[] = [
    (c, r) => c.txn !== '' && r.txn === c.txn && r.event === c.event,
    (c, r) =>
      c.txn !== '' &&
      r.txn === c.txn &&
      rows.filter((x) => x.network === c.network && x.txn === c.txn).length === 1,
    (c, r) => r.amount === c.amount && r.currency === c.currency,
    (c, r) => Math.abs(r.at - c.at) <= day,
  ];
  for (const [n, fits] of steps.entries())
    for (const c of ledger) {
      if (joined.has(c)) continue;
      const alike = rows
        .filter((r) => r.network === c.network && !used.has(r) && fits(c, r))
        .filter(
          (r) =>
            n < 2 ||
            ((c.txn === '' || r.txn === '') &&
              c.click !== '' &&
              r.event === c.event &&
              sameClick(r.click.trim().toUpperCase(), c.click.trim().toUpperCase())),
        )
        .sort((a, b) => (n < 2 ? 0 : a.at - b.at));
      const [row] = alike;
      if (!row) continue;
      used.add(row);
      joined.set(c, row);
    }
  return ledger.map((c) => [c, joined.get(c)]);
};

describe('reconciling', () => {
  it('agrees with nested loops over records on a thousand small worlds', () =>
    fc.assert(
      fc.property(worlds, (world) => {
        const books = booksOf(world);
        const { units } = reconcile(books);
        const { ledger } = ledgerOf(books.postbacks, networks);
        const rows = [...foldReports(world.reports).values()];
        const joined = plainJoin(ledger, rows);
        for (const [conversion, row] of joined) {
          const unit = units.find((one) => one.conversion?.id === conversion.id);
          expect(unit?.reported?.key).toBe(row?.key);
          const [level, hop] = plainMatch(conversion.click, conversion.network, hopsOf(world));
          if (hop) {
            expect(unit?.match.level).toBe(level);
            expect(books.columns.click(unit?.match.row ?? -1)).toBe(hop.click);
          } else {
            const [, fromRow] = row ? plainMatch(row.click, row.network, hopsOf(world)) : [];
            if (fromRow)
              expect([unit?.match.level, books.columns.click(unit?.match.row ?? -1)]).toEqual([
                'row',
                fromRow.click,
              ]);
            else if (level === 'another network') expect(unit?.match.level).toBe(level);
            else
              expect([
                'unfilled',
                'probable',
                'missing',
                'not ours',
                'too short',
                'another network',
              ]).toContain(unit?.match.level);
            // A network that sends its placeholder is told apart from one that sends nothing.
            if (unit?.match.level === 'unfilled')
              expect(unit.match.because.startsWith('{k1} arrived as it stands')).toBe(
                conversion.unfilled === '{k1}',
              );
          }
        }
        const alone = rows.filter((row) => !joined.some(([, of]) => of === row));
        expect(
          units
            .filter((unit) => !unit.conversion)
            .map((unit) => unit.reported?.key)
            .sort(),
        ).toEqual(alone.map((row) => row.key).sort());
        expect(units).toHaveLength(ledger.length + alone.length);
      }),
      { numRuns: 1000 },
    ));

  it('does not depend on the order in which anything arrived', () =>
    fc.assert(
      fc.property(worlds, fc.infiniteStream(fc.nat()), (world, order) => {
        const postbacks = world.journal.filter((record) => record.kind === 'postback');
        const hops = hopsOf(world);
        const numbers = [...order.take(postbacks.length)];
        const shuffled = postbacks
          .map((record, i) => [numbers[i] ?? 0, record] as const)
          .sort(([a], [b]) => a - b)
          .map(([, record], i) => ({ ...record, seq: hops.length + i + 1 }));
        const told = ({ units, cases }: ReturnType<typeof reconcile>) => ({
          units: units
            .map(({ id, match, cause, flags, ours, theirs }) => ({
              id,
              level: match.level,
              cause,
              flags,
              ours,
              theirs,
            }))
            .sort((a, b) => (a.id < b.id ? -1 : 1)),
          cases: cases.map((one) => one.id).sort(),
        });
        const again = { journal: [...hops, ...shuffled], reports: [...world.reports].reverse() };
        expect(told(reconcile(booksOf(again)))).toEqual(told(reconcile(booksOf(world))));
      }),
      { numRuns: 300 },
    ));
});

const sum = (values: readonly number[]) => values.reduce((total, value) => total + value, 0);

describe('the balance', () => {
  it('always adds up, and its pieces are disjoint and together the whole difference', () =>
    fc.assert(
      fc.property(
        worlds,
        fc.constantFrom(undefined, '2026-09', '2026-10', '2026-11'),
        fc.constantFrom(undefined, 'prg_1'),
        (world, month, program) => {
          const { units } = reconcile(booksOf(world));
          for (const { id } of networks) {
            const { conversions, commission } = balanceOf(units, {
              network: id,
              ...(month !== undefined && { month }),
              ...(program !== undefined && { program }),
            });
            for (const bridge of [conversions, ...commission.values()]) {
              expect(bridge.ours + sum(bridge.pieces.map((piece) => piece.value)) + bridge.unexplained).toBe(
                bridge.theirs,
              );
              const ids = [...bridge.pieces.flatMap((piece) => piece.ids), ...bridge.unexplainedIds];
              expect(new Set(ids).size).toBe(ids.length);
            }
            // Counted the long way: every unit on either side, by its own word.
            const of = units.filter(
              (unit) => unit.network === id && (program === undefined || unit.program === program),
            );
            const count = (side: 'ours' | 'theirs') =>
              of.filter(
                ({ [side]: word }) =>
                  word?.counts && (month === undefined || monthIn(zone, word.at) === month),
              ).length;
            expect([conversions.ours, conversions.theirs]).toEqual([count('ours'), count('theirs')]);
            const differing = of.filter(
              ({ ours, theirs }) =>
                (ours?.counts && (month === undefined || ours.month === month)) !==
                (theirs?.counts && (month === undefined || theirs.month === month)),
            );
            const inPieces = new Set([
              ...conversions.pieces.flatMap((piece) => piece.ids),
              ...conversions.unexplainedIds,
            ]);
            for (const unit of differing)
              if ((unit.ours?.counts ?? false) || (unit.theirs?.counts ?? false))
                if (
                  [unit.ours, unit.theirs].some(
                    (word) => word?.counts && (month === undefined || word.month === month),
                  )
                )
                  expect(inPieces.has(unit.id)).toBe(true);
          }
        },
      ),
      { numRuns: 300 },
    ));
});

describe('a decision', () => {
  const world = fc.sample(worlds, { seed: 7, numRuns: 30 });
  const decide = (id: string, kind: Decision['kind'], more: Partial<Decision> = {}): Decision => ({
    id: `dec_${Math.abs(id.length * 31 + kind.length)}`,
    case: id,
    kind,
    reason: '',
    at: 1,
    ...more,
  });

  it('takes its case out of the queue, survives recomputing, and the newest counts', () => {
    let tried = 0;
    for (const one of world)
      for (const found of reconcile(booksOf(one)).cases) {
        tried += 1;
        const decisions = [decide(found.id, 'ask'), decide(found.id, 'write off', { id: 'dec_z', at: 2 })];
        for (let times = 0; times < 2; times++) {
          const { cases } = reconcile(booksOf(one, decisions));
          const waits = groupCases(cases).flatMap((group) => group.cases.map((waiting) => waiting.id));
          expect(waits).not.toContain(found.id);
          const still = cases.find((other) => other.id === found.id);
          if (still) expect(still.decision?.kind).toBe('write off');
        }
      }
    expect(tried).toBeGreaterThan(20);
  });

  it('that chooses clicks changes what was joined into what joining anew gives', () =>
    fc.assert(
      fc.property(
        worlds,
        fc.array(fc.record({ unit: fc.nat(9), hop: fc.nat(9), round: fc.nat(2) }), { maxLength: 5 }),
        (one, choices) => {
          const books = booksOf(one);
          let joined = matchAll(books);
          const decisions: Decision[] = [];
          for (const [n, { unit, hop, round }] of choices.entries()) {
            const { id = '' } = joined.units[unit % joined.units.length] ?? {};
            const click = hopsOf(one)[hop % hopsOf(one).length]?.click ?? '';
            // Now and then one is undone.
            if (round === 2) decisions.pop();
            else decisions.push(decide(`cut short|${id}`, 'choose', { click, at: n + 1, id: `dec_${n}` }));
            joined = rematch(joined, { ...books, decisions }) ?? matchAll({ ...books, decisions });
          }
          const whole = reconcile({ ...books, decisions });
          const byId = <T extends { readonly id: string }>(list: readonly T[]) =>
            [...list].sort((a, b) => (a.id < b.id ? -1 : 1));
          const settled = settle(joined, decisions);
          expect(byId(settled.units)).toEqual(byId(whole.units));
          expect(byId(settled.cases)).toEqual(byId(whole.cases));
        },
      ),
      { numRuns: 1000 },
    ));

  it('can give a conversion another click', () => {
    let tried = 0;
    for (const one of world) {
      const open = reconcile(booksOf(one)).cases.find((found) => found.kind === 'not one of ours');
      const [hop] = hopsOf(one);
      if (!open || !hop || hopsOf(one).filter((other) => other.click === hop.click).length > 1) continue;
      tried += 1;
      const books = booksOf(one, [decide(open.id, 'choose', { click: hop.click })]);
      const unit = reconcile(books).units.find((found: Unit) => found.id === open.unit);
      expect(unit?.match).toMatchObject({ level: 'chosen', row: 0 });
      expect(unit?.link).toBe(hop.link);
    }
    expect(tried).toBeGreaterThan(0);
  });
});
