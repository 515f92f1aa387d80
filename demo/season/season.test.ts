import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { foldClicks } from '#core/conversions';
import { withOwners } from '#core/link-parts';
import type { Case, CaseKind, Cause, ClickCause, ReconcileInput } from '#core/reconcile';
import { balanceOf, bridgeClicks, daysApart, reconcile } from '#core/reconcile';
import { defaultRules } from '#core/visits';
import { classified } from '../../core/visits/testing/classified.ts';
import type { Season } from './index.ts';
import { makeSeason, numbered } from './index.ts';
import { importAll } from './testing/importAll.ts';

const end = Date.UTC(2026, 10, 23);

const booksOf = (season: Season, at: number): ReconcileInput => ({
  ...classified(numbered(season.journal), defaultRules, (source) => source === 'newsletter'),
  ...season.made,
  reports: importAll(season, at),
  decisions: [],
});

/** Checks everything reconciling says of a season against what was planted in it. */
const expectTruth = (season: Season, at: number): ReadonlySet<Cause | ClickCause> => {
  const pieces = new Set<Cause | ClickCause>();
  const books = booksOf(season, at);
  const { units, cases, reads } = reconcile(books);
  const { truth, made } = season;
  const keyOf = new Map(
    units.map(({ id, conversion, reported }) => [
      id,
      conversion?.txn || reported?.txn || `twice ${conversion?.click ?? ''}`,
    ]),
  );
  const txnOf = new Map(books.postbacks.map(({ seq }) => [seq, reads.get(seq)?.event.txn]));
  const keyOfCase = ({ unit, postback, clicks: day }: Case) =>
    keyOf.get(unit) ?? day?.day ?? txnOf.get(postback ?? -1) ?? '';
  const found = cases.map((one) => `${one.kind} ${one.network} ${keyOfCase(one)}`);
  const clicks = [...foldClicks(books.reports).values()];
  for (const { id: network, zone } of made.networks) {
    const links = new Set(made.links.filter((link) => link.network === network).map((link) => link.id));
    const bridgeOf = (month?: string) =>
      bridgeClicks({
        month,
        columns: books.columns,
        classification: books.classification,
        traces: books.traces ?? [],
        reported: clicks.filter((row) => row.network === network),
        isLink: (link) => links.has(link),
        isSource: () => true,
        isLabel: () => true,
        zone: 'Europe/Berlin',
        theirZone: zone,
      });
    const bridge = bridgeOf();
    expect(
      bridge.ours + bridge.pieces.reduce((sum, piece) => sum + piece.value, 0) + bridge.unexplained,
    ).toBe(bridge.theirs);
    expect(daysApart(bridge).map(({ day }) => day)).toEqual(
      cases.flatMap((one) => (one.clicks && one.network === network ? [one.clicks.day] : [])).sort(),
    );
    for (const month of new Set(truth.totals.map((total) => total.month)))
      for (const { cause } of bridgeOf(month).pieces) pieces.add(cause);
  }
  const words = ({ kind, network, key }: { kind: CaseKind; network: string; key: string }) =>
    `${kind} ${network} ${key}`;
  expect(found.sort()).toEqual(truth.faults.map(words).sort());

  for (const { network, month, currency, ours, theirs } of truth.totals) {
    const balance = balanceOf(units, { network, month });
    const bridge = currency === '' ? balance.conversions : balance.commission.get(currency);
    expect({ network, month, currency, ours: bridge?.ours ?? 0, theirs: bridge?.theirs ?? 0 }).toEqual({
      network,
      month,
      currency,
      ours,
      theirs,
    });
    for (const of of [balance.conversions, ...balance.commission.values()])
      for (const { cause } of of.pieces) pieces.add(cause);
  }
  return pieces;
};

/** Every piece there is, and whether a season has it. */
const everyPiece: Readonly<Record<Cause | ClickCause, boolean>> = {
  'no postback': true,
  'not read': true,
  refund: true,
  'no longer listed': true,
  'sent twice': true,
  'not yet reported': true,
  reversed: true,
  'another month': true,
  amount: true,
  'below terms': true,
  tests: true,
  prefetches: true,
  bots: true,
  'not redirected': true,
  repeats: true,
  'day boundary, ours': true,
  'day boundary, theirs': true,
  traces: true,
  'written off': false,
  'not written': false,
  // What nothing explains is no piece.
  'not in report': false,
  currency: false,
};

describe('a season of Nightledge', () => {
  const season = makeSeason({ seed: 881, end });

  it('is the same, byte for byte, for the same seed and end', () => {
    const print = (one: Season) =>
      createHash('sha256')
        .update(JSON.stringify([one.made, one.journal, one.reports, one.truth]))
        .digest('hex');
    expect(print(makeSeason({ seed: 5, end, requests: 4000 }))).toBe(
      print(makeSeason({ seed: 5, end, requests: 4000 })),
    );
    expect(print(makeSeason({ seed: 6, end, requests: 4000 }))).not.toBe(
      print(makeSeason({ seed: 5, end, requests: 4000 })),
    );
  });

  it('says of each link the network and program that its destination says', () => {
    const { links, networks, programs } = season.made;
    for (const link of links) expect(withOwners(link, networks, programs)).toEqual(link);
  });

  it('has the size it was asked for, and every kind of fault', () => {
    const hops = season.journal.filter(({ kind }) => kind === 'hop' || kind === 'beacon').length;
    expect(hops).toBeGreaterThan(57_000);
    expect(hops).toBeLessThan(63_000);
    expect(season.made.links).toHaveLength(65);
    expect(season.sales.length).toBeGreaterThan(800);
    expect(season.sales.length).toBeLessThan(1000);
    expect(new Set(season.truth.faults.map((fault) => fault.kind)).size).toBe(28);
  });

  it('is reconciled: every planted fault is found with its cause, nothing else, and the totals are right to the cent', () => {
    // And every piece a difference can have is there to be seen, but for what only a broken server or a decision makes.
    expect([...expectTruth(season, end)].sort()).toEqual(
      [...Object.keys(everyPiece)].filter((cause) => everyPiece[cause as Cause | ClickCause]).sort(),
    );
  });

  it.each([1, 2, 3, 4, 5, 6, 7, 8, 9, 10])('and so with seed %i', (seed) => {
    const at = end - seed * 86_400_000 * 9;
    expectTruth(makeSeason({ seed, end: at, requests: 20_000 }), at);
  });
});
