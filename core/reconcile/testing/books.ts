import type { Network, PostbackProfile, Program } from '#core/catalogue';
import { element } from '#core/catalogue';
import { knownNetworks } from '#core/link-parts';
import type { Side, Unit } from '../index.ts';

/** A network whose days are those of UTC and whose money is EUR, and which calls everything as we do unless it is taught more. */
export const plainNetwork = (id: string, more: Partial<PostbackProfile> = {}): Network => {
  const known = element(knownNetworks[0]);
  return {
    ...known,
    id,
    zone: 'UTC',
    currency: 'EUR',
    postback: {
      ...known.postback,
      fields: {},
      key: `${id.slice(4)}k`.repeat(12),
      pixelKey: `${id.slice(4)}p`.repeat(12),
      ...more,
    },
  };
};

/** A program that pays 2.00 EUR for the first of a month, and 3.00 from the n-th on. */
export const tieredProgram = (network: string, n: number, id = 'prg_1'): Program => ({
  id,
  network,
  name: id,
  code: id,
  hosts: [],
  state: 'joined',
  terms: [
    {
      kind: 'tiers',
      from: '2026-01-01',
      event: '',
      currency: 'EUR',
      steps: [
        { from: 1, amount: 200 },
        { from: n, amount: 300 },
      ],
    },
  ],
});

/** When what the tests tell of happened: 12 October 2026, noon in Berlin. */
export const noon = Date.UTC(2026, 9, 12, 10);

/** One side's word on a sale of October: approved, in EUR, unless it is told otherwise. */
export const sideOf = (amount: number | null, more: Partial<Side> = {}): Side => ({
  amount,
  currency: 'EUR',
  status: 'approved',
  counts: true,
  at: noon,
  month: '2026-10',
  priced: false,
  ...more,
});

/** A sale by its transaction as both sides see it, its click found. */
export const saleOf = (
  txn: string,
  ours: Side | undefined,
  theirs: Side | undefined,
  more: Partial<Unit> = {},
): Unit => ({
  id: txn,
  network: 'net_h',
  program: 'prg_1',
  link: 'lnk_kit',
  source: '',
  match: { level: 'exact', row: 0, because: '' },
  flags: [],
  ...(ours && { ours }),
  ...(theirs && { theirs }),
  conversion: {
    id: txn,
    network: 'net_h',
    click: '01M84BDPSKXE4HN0RD2V6W3PBC',
    event: 'sale',
    txn,
    currency: 'EUR',
    status: 'approved',
    amount: ours?.amount ?? null,
    at: noon,
    steps: [{ at: noon, arrived: noon, seq: 9, status: 'approved', amount: 1000, did: 'first' }],
    repeats: 0,
    whole: false,
  },
  ...more,
});
