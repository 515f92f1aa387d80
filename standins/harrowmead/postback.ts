import { send } from '../localhost.ts';
import type { Network, Transaction } from './network.ts';

/** Euro cents as a plain decimal. */
export const euros = (cents: number): string => (cents / 100).toFixed(2);

/** Fills the network's own placeholders, each value percent-encoded; one it does not know stays as it is. */
export const fillPlaceholders = (url: string, values: Readonly<Record<string, string>>): string =>
  url.replace(/(?:\[\[|%5B%5B)(\w+)(?:\]\]|%5D%5D)/gi, (whole, name: string) => {
    const value = values[name];
    return value === undefined ? whole : encodeURIComponent(value);
  });

const valuesOf = (network: Network, transaction: Transaction): Record<string, string> => {
  const click = network.clicks.find((c) => c.number === transaction.click);
  return {
    ref1: click?.ref1 ?? '',
    ref2: click?.ref2 ?? '',
    kind: 'sale',
    state: transaction.state,
    commission: euros(transaction.commissionCents),
    currency: 'EUR',
    order: transaction.order,
    deal: click?.deal ?? '',
    when: new Date(transaction.changedAt).toISOString(),
  };
};

/** The addresses told about a transaction: the offer's and the account's, both where both are set. */
const addressesOf = (network: Network, transaction: Transaction): string[] => {
  const click = network.clicks.find((c) => c.number === transaction.click);
  if (!click) return [];
  return [`${click.account}/${click.deal}`, click.account].flatMap((key) => network.postbacks[key] ?? []);
};

/**
 * Sends a transaction's postbacks over HTTP, each with three tries when it is not answered 200.
 *
 * @param pauses milliseconds before the second and third try
 */
export const sendPostbacks = async (
  network: Network,
  transaction: Transaction,
  now: () => number,
  pauses: readonly number[] = [1000, 4000],
): Promise<void> => {
  const state = transaction.state;
  const values = valuesOf(network, transaction);
  for (const address of addressesOf(network, transaction)) {
    const url = fillPlaceholders(address, values);
    for (let attempt = 1; attempt <= 3; attempt++) {
      if (attempt > 1) await new Promise((resolve) => setTimeout(resolve, pauses[attempt - 2] ?? 0));
      const answer = await send(url).then(
        ({ status }) => String(status),
        (error: unknown) => (error instanceof Error ? error.message : String(error)),
      );
      network.delivered({ at: now(), order: transaction.order, state, url, attempt, answer });
      if (answer === '200') break;
    }
  }
};
