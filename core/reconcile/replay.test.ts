import { describe, expect, it } from 'vitest';
import { knownNetworks, networkRecord } from '#core/link-parts';
import type { Network } from '#core/catalogue';
import type { PostbackRecord } from '#core/visits';
import { VisitColumns, Classification, defaultRules } from '#core/visits';
import { bridgeClicks, ledgerOf } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

const day = 86_400_000;
const at = Date.UTC(2026, 9, 5);
const shipped = networkRecord(knownNetworks[0] ?? '', 'net_h', {
  key: 'k'.repeat(30),
  pixelKey: 'p'.repeat(30),
});
const network: Network = {
  ...shipped,
  currency: 'EUR',
  postback: { ...shipped.postback, amounts: 'add', fields: {} },
};
const came = (seq: number, query: string, more: Partial<PostbackRecord> = {}): PostbackRecord =>
  postbackRecord({ seq, at: at + seq * day, query, ...more });
const amounts = (...records: PostbackRecord[]) =>
  ledgerOf(records, [network]).ledger.map(({ txn, amount, repeats }) => [txn, amount, repeats]);

describe('a signature that was seen before', () => {
  const signed = { signed: 'query' as const, signature: 'a'.repeat(64) };
  it('says nothing new, however late it comes and whatever was added around it', () => {
    const first = came(1, 'txn=7&amount=5.00&sig=aa', signed);
    const again = came(3, 'txn=7&amount=5.00&sig=AA', { ...signed, via: 'POST', body: 'amount=900.00' });
    expect(amounts(first, again)).toEqual([['7', 500, 1]]);
    // Without a signature the very same words two days later are another amount to add.
    expect(amounts(came(1, 'txn=7&amount=5.00'), came(3, 'txn=7&amount=5.00'))).toEqual([['7', 1000, 0]]);
  });
  it('is known too where the other half of a doubly signed one is left out', () => {
    const first = came(1, 'txn=7&amount=5.00', {
      signed: 'both',
      signature: `${'a'.repeat(64)}.${'b'.repeat(64)}`,
    });
    expect(amounts(first, came(3, 'txn=7&amount=5.00', signed))).toEqual([['7', 500, 1]]);
  });
  it('makes no second sale where no transaction came', () =>
    expect(amounts(came(1, 'click=A&amount=5.00', signed), came(4, 'click=A&amount=5.00', signed))).toEqual([
      ['', 500, 1],
    ]));
  it('is another one of another network', () => {
    const other = came(3, 'txn=7&amount=5.00', { ...signed, network: 'net_o' });
    expect(amounts(came(1, 'txn=7&amount=5.00', signed), other)).toHaveLength(2);
  });
});

describe('days of which a report of clicks says nothing', () => {
  /** Ten requests on each day from the 5th to the 9th; a report of these days, but for some. */
  const bridgeOf = (told: readonly (readonly [day: string, label: string])[], label = '') => {
    const columns = new VisitColumns();
    return bridgeClicks({
      columns,
      classification: new Classification(columns, () => false, defaultRules),
      rolledUp: [5, 6, 7, 8, 9].map((n) => ({
        day: `2026-10-0${n}`,
        theirDay: `2026-10-0${n}`,
        link: 'lnk_a',
        source: '',
        outcome: 'counted' as const,
        count: 10,
      })),
      traces: [],
      reported: told.map(([day, of]) => ({ day: `2026-10-0${day}`, clicks: 10, label: of })),
      isLink: () => true,
      isSource: () => true,
      isLabel: (of) => label === '' || of === label,
      zone: 'UTC',
      theirZone: 'UTC',
      month: '2026-10',
    });
  };
  it.each([
    [
      'after the last',
      [
        ['5', ''],
        ['6', ''],
      ],
      -30,
    ],
    [
      'before the first',
      [
        ['8', ''],
        ['9', ''],
      ],
      -30,
    ],
    [
      'in a hole between',
      [
        ['5', ''],
        ['6', ''],
        ['9', ''],
      ],
      -20,
    ],
  ] as const)('%s are not yet reported, not unexplained', (_, told, value) => {
    const bridge = bridgeOf(told);
    expect(bridge.unexplained).toBe(0);
    expect(bridge.pieces).toMatchObject([{ cause: 'not yet reported', value }]);
  });
  it('count as none for a label, where the report has other labels on that day', () => {
    const bridge = bridgeOf(
      [
        ['5', 'a'],
        ['6', 'b'],
        ['7', 'a'],
      ],
      'a',
    );
    expect(bridge).toMatchObject({ theirs: 20, unexplained: -10 });
    expect(bridge.pieces).toMatchObject([{ cause: 'not yet reported', value: -20 }]);
  });
});

describe('requests that were not written down', () => {
  it('are a piece of the difference, so that the sums stay true', () => {
    const columns = new VisitColumns();
    const bridge = bridgeClicks({
      columns,
      classification: new Classification(columns, () => false, defaultRules),
      traces: [],
      lost: [
        { at, links: { lnk_a: 40, lnk_other: 7, '': 3 } },
        { at: at + 40 * day, links: { lnk_a: 100 } },
      ],
      reported: [{ day: '2026-10-05', clicks: 31, label: '' }],
      isLink: (link) => link === 'lnk_a',
      isSource: () => true,
      isLabel: () => true,
      zone: 'UTC',
      theirZone: 'UTC',
      month: '2026-10',
    });
    expect(bridge).toMatchObject({ ours: 40, theirs: 31, unexplained: 31 });
    expect(bridge.pieces).toMatchObject([{ cause: 'not written', value: -40, rolledUp: 40 }]);
  });
});
