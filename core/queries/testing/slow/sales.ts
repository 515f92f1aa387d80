import type { Network, Status } from '#core/catalogue';
import { dayMs } from './days.ts';
import type { Word } from './words.ts';
import { inTime, ranks } from './words.ts';

/** A conversion and what it comes to. */
export interface Sale {
  readonly words: readonly Word[];
  readonly status: Status;
  /** What stands, refunds taken off; null where no amount came. */
  readonly amount: number | null;
  readonly currency: string;
  readonly isRefund: boolean;
}

/** What the words of one conversion come to, one after another. */
const standing = (words: readonly Word[], adds: boolean): Omit<Sale, 'words'> => {
  const [first] = words;
  if (!first) throw new Error('no word');
  let { status, currency } = first;
  let sale: number | null = null;
  let whole = 0;
  let back = 0;
  let without = false;
  const amounts: { amount: number; status: Status }[] = [];
  const seen: { word: Word; again: boolean }[] = [];
  const backs: number[] = [];
  for (const word of words) {
    const alike = seen.filter(
      (one) =>
        one.word.status === word.status &&
        one.word.amount === word.amount &&
        one.word.currency === word.currency,
    );
    const fresh = alike.filter((one) => !one.word.timed && !one.again).at(-1);
    const again =
      alike.some((one) => one.word.at === word.at) ||
      (!word.timed && fresh !== undefined && word.at - fresh.word.at <= 60_000);
    seen.push({ word, again });
    const { amount } = word;
    if (amount !== null && (sale !== null || back !== 0) && word.currency !== currency) {
      if (!again && amount >= 0) ({ status } = word);
    } else if (amount === null) {
      without = true;
      ({ status } = word);
      if (status === 'reversed') for (const one of amounts) one.status = status;
    } else if (amount < 0) {
      if (again || backs.includes(amount)) continue;
      backs.push(amount);
      back += amount;
      if (sale !== null) {
        sale += amount;
        if (sale <= 0) status = 'reversed';
      }
    } else if (sale === null) {
      ({ status, currency } = word);
      whole = amount;
      amounts.push({ amount, status });
      sale = amount + back;
      if (sale <= 0 && back < 0) status = 'reversed';
    } else if (adds) {
      if (again) continue;
      const open = amounts.filter((one) => one.status !== 'reversed');
      const total = open.reduce((sum, one) => sum + one.amount, 0);
      const same = amounts.find((one) => one.amount === amount && one.status !== word.status);
      if (same) same.status = word.status;
      else if (amount === total && amounts.some((one) => one.status !== word.status))
        for (const one of open) one.status = word.status;
      else if (word.status === 'reversed') {
        ({ status } = word);
        continue;
      } else amounts.push({ amount, status: word.status });
      const left = amounts.filter((one) => one.status !== 'reversed');
      if (left.length === 0) {
        status = 'reversed';
        continue;
      }
      if (word.status !== 'reversed') ({ status } = word);
      sale = left.reduce((sum, one) => sum + one.amount, 0) + back;
      if (sale <= 0 && back < 0) status = 'reversed';
    } else if (back !== 0 && amount === whole && amount !== sale) {
      if (sale > 0 || word.status === 'reversed') ({ status } = word);
    } else {
      ({ status } = word);
      if (amount === sale) continue;
      whole = amount;
      back = 0;
      sale = amount;
    }
  }
  const isRefund = sale === null && !without && back !== 0;
  return {
    status: isRefund && status === 'reversed' ? 'approved' : status,
    amount: isRefund ? back : sale,
    currency,
    isRefund,
  };
};

/** Which words are one conversion, each asked of every other. */
export const salesOf = (words: readonly Word[], network: Network): Sale[] => {
  const { amounts, recurs = [], caseMatters } = network.postback;
  const txnOf = (word: Word) => (caseMatters ? word.txn.trim() : word.txn.trim().toLowerCase());
  const kindOf = (word: Word) =>
    word.txn !== ''
      ? `txn ${txnOf(word)}`
      : word.click !== ''
        ? `click ${word.click.toUpperCase()}`
        : word.text;
  const groups: Word[][] = [];
  for (const word of words) {
    const group = groups.find(([one]) => one && one.event === word.event && kindOf(one) === kindOf(word));
    if (group) group.push(word);
    else groups.push([word]);
  }
  const chains = groups.flatMap((all): Word[][] => {
    const sure = all.filter((word) => !word.unverified);
    const group = [...(sure.length > 0 ? sure : all)].sort(inTime);
    const [first] = group;
    if (!first) return [];
    const recurring = recurs.includes(first.event);
    if (first.txn !== '' && !recurring) return [group];
    const found: Word[][] = [];
    for (const word of first.txn === '' && first.click === ''
      ? group.sort((a, b) => a.arrived - b.arrived)
      : group) {
      const last = found.at(-1);
      const before = last?.at(-1);
      const movesOn =
        before !== undefined &&
        (ranks.indexOf(word.status) > ranks.indexOf(before.status) || (word.amount ?? 0) < 0);
      let home: Word[] | undefined;
      if (first.txn !== '') {
        if (last && before && (word.at - before.at < dayMs || movesOn)) home = last;
      } else if (first.click === '') {
        if (last?.[0] && word.arrived - last[0].arrived <= 60_000) home = last;
      } else {
        // Worlds in which a click without transactions has refunds or amounts missing are told apart elsewhere.
        home = found.find((chain) => {
          const end = chain.at(-1);
          const near =
            end !== undefined &&
            (word.at - end.at < dayMs ||
              (recurring && ranks.indexOf(word.status) > ranks.indexOf(end.status)));
          return near && chain.some((one) => one.amount === word.amount && one.currency === word.currency);
        });
      }
      if (home) home.push(word);
      else found.push([word]);
    }
    return found;
  });
  return chains.map((chain) => ({ words: chain, ...standing(chain, amounts === 'add') }));
};
