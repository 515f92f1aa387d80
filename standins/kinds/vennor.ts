import type { Kind } from '../network/kind.ts';
import { decimals, fixed } from '../network/kind.ts';
import { linkShape } from '../network/linkShape.ts';
import { clockOf } from './clock.ts';

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/**
 * A merchant's own program, in pounds. Its tracking links are its own pages; it sends its conversions by POST and names
 * no amounts.
 */
export const vennor: Kind = {
  id: 'vennor',
  name: 'Vennor Direct',
  host: 'vennor.localhost',
  colour: '#7a2f3f',
  accounts: ['NL20'],
  offers: [{ code: '', merchant: 'Vennor Direct', pays: fixed({ sale: 600 }, 'GBP') }],
  clickName: 'vdclick',
  firstClick: 9001,
  firstOrder: 2200,
  orderOf: (number) => `VD-${number}`,
  slots: ['note'],
  keeps: (subId) => subId.slice(0, 32),
  shape: linkShape('vennor.localhost', '{page}?friend={account}&note={note}'),
  isOwnShop: true,
  words: { pending: 'Pending', approved: 'Approved', reversed: 'Reversed', paid: 'Approved' },
  placeholder: /(?:\{|%7B)(\w+)(?:\}|%7D)/gi,
  placeholders: ['{note}', '{what}', '{order}'],
  values: ({ order, event }, { slots }) => ({ ...slots, what: event, order }),
  via: 'POST',
  tells: () => true,
  deafEvery: 0,
  reversesEvery: 0,
  report: {
    file: 'vennor-friends.csv',
    head: 'Reference,Date,Note,Reward,Status',
    line: ({ order, at, slots, state, commission }) => {
      const t = clockOf('Europe/London', at);
      return [
        order,
        `${Number(t.day)} ${months[Number(t.month) - 1] ?? ''} ${t.year} ${t.hour}:${t.minute}`,
        slots[0] ?? '',
        `£${decimals(commission)}`,
        vennor.words[state],
      ].join(',');
    },
  },
};
