import type { Kind } from '../network/kind.ts';
import { decimals, percent } from '../network/kind.ts';
import { linkShape } from '../network/linkShape.ts';
import { clockOf, grouped } from './clock.ts';

/**
 * Pays a share of each sale in euro. It keeps 20 characters of a sub-ID, so that click IDs are cut short, and reports
 * days of Berlin as `dd.mm.yyyy` with decimal commas.
 */
export const harrowmead: Kind = {
  id: 'harrowmead',
  name: 'Harrowmead',
  host: 't.harrowmead.localhost',
  colour: '#7a5c12',
  accounts: ['nl-4471', 'nl-5520'],
  offers: [
    { code: '2093', merchant: 'Polehouse Optics', pays: percent(8) },
    { code: '2111', merchant: 'Cindermitt', pays: percent(6) },
  ],
  clickName: 'hmclick',
  firstClick: 70_001,
  firstOrder: 881_204,
  orderOf: (number) => `HM-${number}`,
  slots: ['ref1', 'ref2'],
  keeps: (subId) => subId.slice(0, 20),
  shape: linkShape(
    't.harrowmead.localhost',
    '//{host}/r?by={account}&deal={offer}&ref1={ref1}&ref2={ref2}&page={page}',
  ),
  words: { pending: 'open', approved: 'confirmed', reversed: 'cancelled', paid: 'settled' },
  placeholder: /(?:\[\[|%5B%5B)(\w+)(?:\]\]|%5D%5D)/gi,
  placeholders: ['ref1', 'ref2', 'kind', 'state', 'commission', 'currency', 'order', 'deal', 'when'].map(
    (name) => `[[${name}]]`,
  ),
  values: ({ order, event, commission, changedAt }, { slots, offer }, state) => ({
    ...slots,
    kind: event,
    state,
    commission: decimals(commission),
    currency: commission.currency,
    order,
    deal: offer,
    when: new Date(changedAt).toISOString(),
  }),
  via: 'GET',
  tells: () => true,
  deafEvery: 0,
  reversesEvery: 0,
  report: {
    file: 'harrowmead-orders.csv',
    head: 'Order;Time;Deal;Ref1;Ref2;Commission;Currency;State',
    line: ({ order, at, offer, slots, state, commission }) => {
      const t = clockOf('Europe/Berlin', at);
      const [whole = '', cents = ''] = decimals(commission).split('.');
      return [
        order,
        `${t.day}.${t.month}.${t.year} ${t.hour}:${t.minute}:${t.second}`,
        offer,
        slots[0] ?? '',
        slots[1] ?? '',
        `${grouped(whole, '.')},${cents}`,
        commission.currency,
        harrowmead.words[state],
      ].join(';');
    },
  },
};
