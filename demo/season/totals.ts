import { monthIn } from '#core/hop';
import type { Sale } from './sale.ts';

/** Sums of a month with one network in one currency, or conversions where the currency is empty. */
export interface Total {
  readonly network: string;
  readonly month: string;
  readonly currency: string;
  readonly ours: number;
  readonly theirs: number;
}

/** What both sides truly come to: what reconciling has to show, to the cent. */
export const totalsOf = (sales: readonly Sale[], zoneOf: (network: string) => string): Total[] => {
  const totals = new Map<string, { ours: number; theirs: number }>();
  const add = (side: 'ours' | 'theirs', network: string, at: number, currency: string, amount: number) => {
    const key = `${network} ${monthIn(zoneOf(network), at)} ${currency}`;
    const sums = totals.get(key) ?? { ours: 0, theirs: 0 };
    sums[side] += amount;
    totals.set(key, sums);
  };
  for (const { network, heard, report, twice, refund, dropped } of sales) {
    if (heard?.counts)
      for (let times = twice ? 2 : 1; times > 0; times--) {
        // What a network tells is told in whole seconds.
        const at =
          network === 'net_harrowmead' || network === 'net_kelvane'
            ? Math.floor(heard.at / 1000) * 1000
            : heard.at;
        add('ours', network, at, '', 1);
        add('ours', network, at, heard.currency, heard.amount + (refund?.heard ? refund.amount : 0));
      }
    if (report && refund?.reported) add('theirs', network, refund.at, report.currency, refund.amount);
    if (report && report.state !== 'reversed' && !dropped) {
      add('theirs', network, report.at, '', 1);
      add('theirs', network, report.at, report.currency, report.amount);
    }
  }
  return [...totals]
    .map(([key, sums]) => {
      const [network = '', month = '', currency = ''] = key.split(' ');
      return { network, month, currency, ...sums };
    })
    .sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));
};
