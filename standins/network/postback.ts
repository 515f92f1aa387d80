import { send } from '../localhost.ts';
import type { Kind, State, Transaction } from './kind.ts';
import type { SimulatedNetwork } from './network.ts';

/** Fills a network's own placeholders, each value percent-encoded; one it does not know stays as it is. */
export const fillPlaceholders = (
  url: string,
  { placeholder }: Pick<Kind, 'placeholder'>,
  values: Readonly<Record<string, string>>,
): string =>
  url.replace(placeholder, (whole: string, name: string) => {
    const value = values[name];
    return value === undefined ? whole : encodeURIComponent(value);
  });

/** The addresses told about a transaction: the offer's and the account's, both where both are set. */
const addressesOf = (network: SimulatedNetwork, transaction: Transaction): string[] => {
  const click = network.clickOf(transaction.click);
  if (!click) return [];
  const offer = `${click.account}/${click.offer}`;
  return [...new Set([offer, click.account])].flatMap((key) => network.postbacks[key] ?? []);
};

/**
 * Sends a transaction's postbacks over HTTP, each with three tries when it is not answered 200; or keeps them back, or
 * lets them be, as the network's sending is.
 *
 * @param pauses milliseconds before the second and third try
 */
export const sendPostbacks = async (
  network: SimulatedNetwork,
  transaction: Transaction,
  now: () => number,
  pauses: readonly number[] = [1000, 4000],
  state: State = transaction.state,
): Promise<void> => {
  const { kind } = network;
  const click = network.clickOf(transaction.click);
  if (!click || !kind.tells(state) || network.sending === 'broken') return;
  if (network.sending === 'late') {
    network.wait({ order: transaction.order, state });
    return;
  }
  const values = kind.values(transaction, click, kind.words[state]);
  for (const address of addressesOf(network, transaction)) {
    const [url = '', body = ''] =
      kind.via === 'GET'
        ? [fillPlaceholders(address, kind, values)]
        : fillPlaceholders(address, kind, values).split('?', 2);
    const options =
      kind.via === 'GET'
        ? {}
        : { method: 'POST', headers: { 'Content-Type': 'application/x-www-form-urlencoded' } };
    for (let attempt = 1; attempt <= 3; attempt++) {
      if (attempt > 1) await new Promise((resolve) => setTimeout(resolve, pauses[attempt - 2] ?? 0));
      const heard = await send(url, options, kind.via === 'GET' ? undefined : body).then(
        ({ status }) => String(status),
        (error: unknown) => (error instanceof Error ? error.message : String(error)),
      );
      const deaf = kind.deafEvery > 0 && network.deliveries.length % kind.deafEvery === kind.deafEvery - 1;
      const answer = deaf ? 'no answer in time' : heard;
      network.delivered({ at: now(), order: transaction.order, state, url, body, attempt, answer });
      if (answer === '200') break;
    }
  }
};
