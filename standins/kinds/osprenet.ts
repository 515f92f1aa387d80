import type { Kind } from '../network/kind.ts';
import { decimals, percent } from '../network/kind.ts';
import { linkShape } from '../network/linkShape.ts';
import { grouped } from './clock.ts';

/**
 * Pays a share in yen or euro, days in UTC. It lower-cases sub-IDs, takes back one order in twelve and says so in its
 * report alone, and now and then sends the same again.
 */
export const osprenet: Kind = {
  id: 'osprenet',
  name: 'Osprenet',
  host: 'click.osprenet.localhost',
  colour: '#4a3f7a',
  accounts: ['nightledge'],
  offers: [{ code: '', merchant: 'Umbra & Finch', pays: percent(7) }],
  clickName: 'osref',
  firstClick: 5_200_001,
  firstOrder: 150_000,
  orderOf: (number) => `os-${(number * 37).toString(36)}`,
  slots: ['tag'],
  keeps: (subId) => subId.slice(0, 40).toLowerCase(),
  shape: linkShape(
    'click.osprenet.localhost',
    '//{account}.{host}/x?banner=&tag={tag}&to={page}',
    'base64url',
  ),
  words: { pending: 'new', approved: 'ok', reversed: 'void', paid: 'ok' },
  placeholder: /%(tag|status|reward|cur|id)%/g,
  placeholders: ['%tag%', '%status%', '%reward%', '%cur%', '%id%'],
  values: ({ order, commission }, { slots }, status) => ({
    ...slots,
    status,
    reward: decimals(commission),
    cur: commission.currency,
    id: order,
  }),
  via: 'GET',
  tells: (state) => state !== 'reversed',
  deafEvery: 10,
  reversesEvery: 12,
  report: {
    file: 'osprenet-rewards.tsv',
    head: 'id\tcreated\ttag\treward\tcur\tstatus',
    line: ({ order, at, slots, state, commission }) =>
      [
        order,
        new Date(Math.floor(at / 1000) * 1000).toISOString().replace('.000Z', 'Z'),
        slots[0] ?? '',
        commission.currency === 'JPY' ? grouped(String(commission.minor), ',') : decimals(commission),
        commission.currency,
        osprenet.words[state],
      ].join('\t'),
  },
};
