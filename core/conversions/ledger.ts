import type { PostbackProfile } from '#core/catalogue';
import { element, fingerprint, Lists } from '#core/catalogue';
import type { Conversion } from './fold.ts';
import { compareText, fold, inOrder, isLater, takesBack } from './fold.ts';
import type { ConversionEvent } from './postback.ts';
import { txnKey } from './txnKey.ts';

/** What of a network's profile decides which events are one conversion, and what it is worth. */
export type Folding = Pick<PostbackProfile, 'amounts' | 'recurs' | 'caseMatters'>;

/** Without a transaction, events of one click are one conversion while less than this lies between them. */
const clickGapMs = 24 * 3600_000;
/** Without a click either, only the same bytes are, when they come within this of the first. */
const bytesMs = 60_000;

/** By what events of one conversion are found: its transaction, else its click, else its very bytes. */
const keyOf = (e: ConversionEvent, caseMatters: boolean): string => {
  if (e.txn !== '') return `${e.network}\ntxn\n${e.event}\n${txnKey(e.txn, caseMatters)}`;
  if (e.click !== '') return `${e.network}\nclick\n${e.event}\n${e.click.toUpperCase()}`;
  return `${e.network}\nbytes\n${e.event}\n${bytesOf(e)}`;
};

/** All that was said; of an event that did not come as bytes, what it holds. */
const bytesOf = ({ bytes, status, amount, currency, timed, at }: ConversionEvent): string =>
  bytes ?? `${status} ${amount} ${currency} ${timed ? at : ''}`;

/** An event without a transaction is known by its time too, and by its bytes where nothing else tells it from others. */
const idOfChain = (start: ConversionEvent): string =>
  `${idOf(start)}@${start.at}${start.txn === '' && start.click === '' ? ` ${fingerprint(bytesOf(start))}` : ''}`;

const idOf = (first: ConversionEvent): string =>
  JSON.stringify(
    first.txn === ''
      ? [first.network, 'click', first.click.toUpperCase(), first.event, first.amount, first.currency]
      : [first.network, 'txn', first.txn.trim(), first.event],
  );

/** Events of one transaction that recur: one begins anew after a day, unless it only moves on what came last. */
const recurringChains = (events: readonly ConversionEvent[]): ConversionEvent[][] => {
  const chains: ConversionEvent[][] = [];
  for (const event of events) {
    const chain = chains.at(-1);
    const previous = chain?.at(-1);
    const movesOn = previous && (isLater(event.status, previous.status) || takesBack(event));
    if (chain && previous && (event.at - previous.at < clickGapMs || movesOn)) chain.push(event);
    else chains.push([event]);
  }
  return chains;
};

/**
 * Events of one click that carry no transaction: those of one amount are one conversion while less than a day lies between them.
 * One without an amount belongs to the only one it can belong to; one that takes back, to the only sale that was worth as much.
 */
const clickChains = (events: readonly ConversionEvent[], isRecurring: boolean): ConversionEvent[][] => {
  const chains: ConversionEvent[][] = [];
  const amountOf = (chain: readonly ConversionEvent[]) => chain.find(({ amount }) => amount !== null);
  const only = <T>([first, ...others]: readonly T[]): T | undefined =>
    others.length === 0 ? first : undefined;
  const home = (event: ConversionEvent): ConversionEvent[] | undefined => {
    if (takesBack(event)) {
      const sales = chains.filter((chain) => {
        const sale = amountOf(chain);
        return sale !== undefined && !takesBack(sale) && sale.currency === event.currency;
      });
      const back = -(event.amount ?? 0);
      return (
        only(sales.filter((chain) => amountOf(chain)?.amount === back)) ??
        only(sales.filter((chain) => (amountOf(chain)?.amount ?? 0) >= back)) ??
        // Of no sale that is known, or of one of several: the same again is asked about with it.
        chains.find(([first]) => first?.amount === event.amount && first.currency === event.currency)
      );
    }
    const open = chains.filter((chain) => {
      const last = element(chain.at(-1));
      return event.at - last.at < clickGapMs || (isRecurring && isLater(event.status, last.status));
    });
    if (event.amount === null)
      return (
        open.find((chain) => chain.every(({ amount }) => amount === null)) ??
        only(open.filter((chain) => !chain.every(takesBack)))
      );
    return (
      open.find((chain) => {
        const sale = amountOf(chain);
        return sale?.amount === event.amount && sale.currency === event.currency;
      }) ?? only(open.filter((chain) => amountOf(chain) === undefined))
    );
  };
  for (const event of events) {
    const chain = home(event);
    if (chain) chain.push(event);
    else chains.push([event]);
  }
  return chains;
};

/** Events that nothing but their bytes tells apart: the same within a minute is the same sent again. */
const bytesChains = (events: readonly ConversionEvent[]): ConversionEvent[][] => {
  const chains: ConversionEvent[][] = [];
  for (const event of [...events].sort((a, b) => a.arrived - b.arrived)) {
    const chain = chains.at(-1);
    if (chain && event.arrived - element(chain[0]).arrived <= bytesMs) chain.push(event);
    else chains.push([event]);
  }
  return chains.map((chain) => chain.sort(inOrder));
};

/**
 * Folds events into conversions. States are ordered by the network's own time and then by rank, so the order
 * in which postbacks arrived does not matter. Gives them by time, then ID.
 *
 * @param folding tells per network whether a new amount replaces the one before or is added to it, what recurs, and whether
 * transactions are told apart by case
 */
export const makeLedger = (
  events: readonly ConversionEvent[],
  folding: (network: string) => Folding = () => ({ amounts: 'replace' }),
): Conversion[] => {
  const groups = new Lists<string, ConversionEvent>();
  for (const event of events) groups.put(keyOf(event, folding(event.network).caseMatters === true), event);
  const ledger: Conversion[] = [];
  const ids = new Map<string, number>();
  for (const group of groups.values()) {
    // What anybody could have sent changes nothing of what the network said.
    const verified = group.filter((event) => event.unverified === undefined);
    const counted = verified.length > 0 ? verified : [...group];
    if (counted.length > 1) counted.sort(inOrder);
    const [first] = counted;
    if (!first) continue;
    const { amounts: how, recurs } = folding(first.network);
    const isRecurring = recurs?.includes(first.event) === true;
    if (first.txn !== '' && !isRecurring) {
      ledger.push(fold(idOf(first), counted, how));
      continue;
    }
    const chains =
      first.txn !== ''
        ? recurringChains(counted)
        : first.click !== ''
          ? clickChains(counted, isRecurring)
          : bytesChains(counted);
    for (const chain of chains) {
      const id = idOfChain(element(chain[0]));
      const before = ids.get(id) ?? 0;
      ids.set(id, before + 1);
      ledger.push(fold(before === 0 ? id : `${id}~${before + 1}`, chain, how));
    }
  }
  return ledger.sort((a, b) => a.at - b.at || compareText(a.id, b.id));
};
