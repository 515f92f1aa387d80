import type { Network } from './network.ts';

const berlin = new Intl.DateTimeFormat('de-DE', {
  timeZone: 'Europe/Berlin',
  day: '2-digit',
  month: '2-digit',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
});

const comma = (cents: number): string => (cents / 100).toFixed(2).replace('.', ',');

/** The report an account downloads: semicolons, days of Berlin as dd.mm.yyyy, decimal commas. */
export const reportOf = (network: Network, account: string): string => {
  const lines = ['Order;Time;Deal;Ref1;Ref2;Sale;Commission;Currency;State'];
  for (const t of network.transactions) {
    const click = network.clicks.find((c) => c.number === t.click);
    if (click?.account !== account) continue;
    lines.push(
      [
        t.order,
        berlin.format(t.at).replace(', ', ' '),
        click.deal,
        click.ref1,
        click.ref2,
        comma(t.saleCents),
        comma(t.commissionCents),
        'EUR',
        t.state,
      ].join(';'),
    );
  }
  return `${lines.join('\r\n')}\r\n`;
};
