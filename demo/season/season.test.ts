import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import type { Report, ReportProfile } from '#core/catalogue';
import {
  foldClicks,
  guessReport,
  learnProfile,
  likelyCover,
  readReport,
  reportParts,
} from '#core/conversions';
import { readTable } from '#core/formats';
import { withOwners } from '#core/link-parts';
import type { ReconcileInput, CaseKind } from '#core/reconcile';
import { balanceOf, bridgeClicks, daysApart, reconcile } from '#core/reconcile';
import { classified } from '../../core/visits/testing/classified.ts';
import type { Season } from './index.ts';
import { makeSeason, numbered } from './index.ts';

const end = Date.UTC(2026, 10, 23);

/** Reads the reports of a season as a person would who accepts what is proposed. */
const importAll = ({ made, reports }: Season, at: number): Report[] => {
  const learned = new Map<string, ReportProfile>();
  return reports.flatMap(({ network: id, name, text }, i) => {
    const network = made.networks.find((one) => one.id === id);
    if (!network) throw new Error(id);
    const table = readTable(text);
    const before = learned.get(id);
    const reading = guessReport(table, { ...network, ...(before && { report: before }) });
    expect(reading.asks, name).toEqual([]);
    learned.set(id, learnProfile(before, reading.profile));
    const { bad, ...read } = readReport(table, reading.profile, network);
    expect(bad, name).toEqual([]);
    const cover = likelyCover(read.from, read.until, new Date(at - 86_400_000).toISOString().slice(0, 10));
    return reportParts({ ...read, ...cover, network: id, batch: `b${i}`, file: name, at: at + i });
  });
};

const booksOf = (season: Season, at: number): ReconcileInput => ({
  ...classified(numbered(season.journal)),
  ...season.made,
  reports: importAll(season, at),
  decisions: [],
});

/** Checks everything reconciling says of a season against what was planted in it. */
const expectTruth = (season: Season, at: number): void => {
  const books = booksOf(season, at);
  const { units, cases } = reconcile(books);
  const { truth, made } = season;
  const keyOf = new Map(
    units.map(({ id, conversion, reported }) => [
      id,
      conversion?.txn || reported?.txn || `twice ${conversion?.click ?? ''}`,
    ]),
  );
  const found = cases.map((one) => `${one.kind} ${one.network} ${keyOf.get(one.unit) ?? ''}`);
  const apart: { kind: CaseKind; network: string; key: string }[] = [];
  const clicks = [...foldClicks(books.reports).values()];
  for (const { id: network, zone } of made.networks) {
    const links = new Set(made.links.filter((link) => link.network === network).map((link) => link.id));
    const bridge = bridgeClicks({
      columns: books.columns,
      classification: books.classification,
      traces: [],
      reported: clicks.filter((row) => row.network === network),
      isLink: (link) => links.has(link),
      isSource: () => true,
      isLabel: () => true,
      zone: 'Europe/Berlin',
      theirZone: zone,
    });
    expect(
      bridge.ours + bridge.pieces.reduce((sum, piece) => sum + piece.value, 0) + bridge.unexplained,
    ).toBe(bridge.theirs);
    for (const { day } of daysApart(bridge)) apart.push({ kind: 'clicks differ', network, key: day });
  }
  const words = ({ kind, network, key }: { kind: CaseKind; network: string; key: string }) =>
    `${kind} ${network} ${key}`;
  expect([...found, ...apart.map(words)].sort()).toEqual(truth.faults.map(words).sort());

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
  }
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
    expect(season.made.links).toHaveLength(64);
    expect(season.sales.length).toBeGreaterThan(800);
    expect(season.sales.length).toBeLessThan(1000);
    expect(new Set(season.truth.faults.map((fault) => fault.kind)).size).toBe(19);
  });

  it('is reconciled: every planted fault is found with its cause, nothing else, and the totals are right to the cent', () =>
    expectTruth(season, end));

  it.each([1, 2, 3, 4, 5, 6, 7, 8, 9, 10])('and so with seed %i', (seed) => {
    const at = end - seed * 86_400_000 * 9;
    expectTruth(makeSeason({ seed, end: at, requests: 20_000 }), at);
  });
});
