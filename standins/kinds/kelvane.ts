import type { Kind } from '../network/kind.ts';
import { decimals, fixed } from '../network/kind.ts';
import { linkShape } from '../network/linkShape.ts';
import { clockOf } from './clock.ts';

/**
 * Pays a fixed amount per lead in dollars. It tells both the account's address and the offer's where both are set, and
 * reports days of Los Angeles as `mm/dd/yyyy` with twelve hours and `$` in its amounts.
 */
export const kelvane: Kind = {
  id: 'kelvane',
  name: 'Kelvane',
  host: 'go.kelvane.localhost',
  colour: '#265d5a',
  accounts: ['7731'],
  offers: [
    { code: '71', merchant: 'Wickstar Charts', pays: fixed({ trial: 200, yearly: 1250 }, 'USD') },
    { code: '88', merchant: 'Emberlamp', pays: fixed({ lead: 450 }, 'USD') },
  ],
  clickName: 'kvlead',
  firstClick: 310_001,
  firstOrder: 40_000,
  orderOf: (number) => `KV${number}`,
  slots: ['k1', 'k2', 'k3', 'k4', 'k5'],
  keeps: (subId) => subId.slice(0, 64),
  shape: linkShape('go.kelvane.localhost', '//{host}/c/{account}/{offer}?k1={k1}&k2={k2}&land={page}'),
  words: { pending: 'hold', approved: 'accepted', reversed: 'rejected', paid: 'accepted' },
  placeholder: /(?:\{|%7B)(\w+)(?:\}|%7D)/gi,
  placeholders: ['k1', 'k2', 'k3', 'k4', 'k5', 'goal', 'payout', 'lead', 'result', 'time'].map(
    (name) => `{${name}}`,
  ),
  values: ({ order, event, commission, changedAt }, { slots }, result) => ({
    ...slots,
    goal: event,
    payout: decimals(commission),
    lead: order,
    result,
    time: String(Math.floor(changedAt / 1000)),
  }),
  via: 'GET',
  tells: () => true,
  deafEvery: 0,
  reversesEvery: 0,
  report: {
    file: 'kelvane-leads.csv',
    head: '"Lead ID","Campaign","k1","Goal","Result","Payout","Date","Time"',
    line: ({ order, at, merchant, slots, event, state, commission }) => {
      const t = clockOf('America/Los_Angeles', at);
      const hour = Number(t.hour);
      return [
        order,
        merchant,
        slots[0] ?? '',
        event,
        kelvane.words[state],
        `$${decimals(commission)}`,
        `${t.month}/${t.day}/${t.year}`,
        `${hour % 12 === 0 ? 12 : hour % 12}:${t.minute}:${t.second} ${hour < 12 ? 'AM' : 'PM'}`,
      ]
        .map((cell) => `"${cell}"`)
        .join(',');
    },
  },
};
