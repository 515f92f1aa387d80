import type { StatementRow } from './kind.ts';
import type { SimulatedNetwork } from './network.ts';

/** The report an account downloads, in the network's own way. */
export const reportOf = (network: SimulatedNetwork, account: string): string => {
  const { kind } = network;
  const lines = network.transactions.flatMap((t) => {
    const click = network.clickOf(t.click);
    if (click?.account !== account) return [];
    const row: StatementRow = {
      order: t.order,
      at: t.at,
      offer: click.offer,
      merchant: kind.offers.find(({ code }) => code === click.offer)?.merchant ?? '',
      slots: kind.slots.map((name) => click.slots[name] ?? ''),
      event: t.event,
      state: t.state,
      commission: t.commission,
    };
    return [kind.report.line(row)];
  });
  return `${[kind.report.head, ...lines].join('\r\n')}\r\n`;
};
