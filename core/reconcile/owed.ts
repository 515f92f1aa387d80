import type { ClosedMonth, Network, Payment } from '#core/catalogue';
import { addTo } from '#core/catalogue';
import type { Minor } from '#core/values';
import { exponentOf } from '#core/values';
import { convert } from './convert.ts';
import type { Adjustment } from './month.ts';
import { approvedOf, knowsApproved } from './month.ts';
import type { Unit } from './unit.ts';
import { leadingSide } from './unit.ts';

/** What a network approved in a month, in one currency. */
export interface Approved {
  /** `2026-10` */
  readonly month: string;
  readonly currency: string;
  readonly minor: Minor;
}

/** What of it was paid, and what is still owed: approved = paid + deducted + owed. */
export interface Owed extends Approved {
  readonly paid: Minor;
  /** What the network keeps of it because it took back more than it approved in another month; there it is negative. */
  readonly deducted: Minor;
  readonly owed: Minor;
  /** Days since the end of the month. */
  readonly days: number;
  /** The day by which the network's own terms have it paid; undefined without terms, or while it is too little to be paid. */
  readonly due?: string;
  /** Days since it was due; 0 where it is not, or nothing is owed. */
  readonly late: number;
}

/** A payment, and what it was laid on. */
export interface LaidPayment {
  readonly id: string;
  /** What it is worth in the currency it settles, its fee put back. */
  readonly worth: Minor;
  readonly currency: string;
  readonly laid: readonly { readonly month: string; readonly minor: Minor }[];
  /** What is left of it: paid ahead, or more than the months it is for. */
  readonly left: Minor;
}

export interface Owing {
  readonly months: readonly Owed[];
  readonly payments: readonly LaidPayment[];
  /** What was paid beyond what was approved, by currency. */
  readonly ahead: ReadonlyMap<string, Minor>;
}

/**
 * What a network approved by month and currency, oldest first. A closed month has what it had when it was closed; what was
 * approved or taken back of it since counts in the month in which that arrived.
 *
 * @param closed the network's closed months
 * @param adjustments what changed of them since and no month has counted yet
 */
export const approvedBy = (
  units: readonly Unit[],
  network: string,
  closed: readonly ClosedMonth[],
  adjustments: readonly Adjustment[],
): Approved[] => {
  const sums = new Map<string, Approved>();
  const add = (month: string, currency: string, minor: Minor) => {
    if (minor === 0) return;
    const key = `${month} ${currency}`;
    sums.set(key, { month, currency, minor: (sums.get(key)?.minor ?? 0) + minor });
  };
  const frozen = closed.filter(knowsApproved);
  const isFrozen = new Set(frozen.map(({ month }) => month));
  for (const { month, rows, adjusted = [] } of frozen) {
    for (const { currency, approved = 0 } of rows) add(month, currency, approved);
    for (const { currency, approved } of adjusted) add(month, currency, approved);
  }
  for (const unit of units) {
    if (unit.network !== network || !unit.theirs) continue;
    const { month, currency } = leadingSide(unit);
    if (!isFrozen.has(month)) add(month, currency, approvedOf(unit.theirs));
  }
  for (const { arrived, currency, approved } of adjustments) add(arrived, currency, approved);
  return [...sums.values()]
    .filter(({ minor }) => minor !== 0)
    .sort((a, b) => (a.month < b.month ? -1 : a.month > b.month ? 1 : a.currency < b.currency ? -1 : 1));
};

const dayMs = 86_400_000;

/** The first day after a month, as a moment of UTC; so many days later. */
const endOf = (month: string, later = 0): number => {
  const [year = 0, number = 1] = month.split('-').map(Number);
  return Date.UTC(year, number, 1) + later * dayMs;
};
const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

/**
 * What a payment is worth in the currency of what it settles, its fee put back; undefined where its rate is none.
 */
export const worthOf = ({
  amount,
  fee = 0,
  currency,
  settles,
}: Pick<Payment, 'amount' | 'fee' | 'currency' | 'settles'>):
  { readonly minor: Minor; readonly currency: string } | undefined => {
  if (!settles) return { minor: amount + fee, currency };
  const places = { from: exponentOf(currency), to: exponentOf(settles.currency) };
  const minor = convert(amount + fee, settles.rate, places);
  return minor === undefined ? undefined : { minor, currency: settles.currency };
};

/** A month while payments are laid on it. */
interface Open {
  readonly approved: Approved;
  paid: Minor;
  deducted: Minor;
}
const restOf = ({ approved, paid, deducted }: Open): Minor => approved.minor - paid - deducted;

/**
 * The day by which each month is due by the network's terms: so many days after its end, or after the end of the first month
 * with which what is owed comes to the least it pays.
 */
const dueDays = (
  months: readonly Open[],
  { days, from }: NonNullable<Network['pays']>,
): Map<Open, string> => {
  const due = new Map<Open, string>();
  let waiting: Open[] = [];
  let owed = 0;
  for (const one of months) {
    const rest = restOf(one);
    // A month that is paid needed no other.
    if (rest === 0) {
      due.set(one, dayOf(endOf(one.approved.month, days)));
      continue;
    }
    waiting.push(one);
    owed += rest;
    if (owed < from) continue;
    for (const each of waiting) due.set(each, dayOf(endOf(one.approved.month, days)));
    waiting = [];
  }
  return due;
};

/**
 * Lays payments on what was approved, each currency by itself: first those that say what they are for, on these months and
 * no other; then the rest, on the oldest month that is owed. A month in which more was taken back than approved is kept from
 * what the oldest others are owed. What was paid beyond that is ahead.
 *
 * @param today `2026-11-23`
 * @param pays the network's terms of payment, and its currency, in which its least payment is
 */
export const owedBy = (
  approved: readonly Approved[],
  payments: readonly Payment[],
  today: string,
  pays?: { readonly terms: NonNullable<Network['pays']>; readonly currency: string },
): Owing => {
  const months = [...approved]
    .sort((a, b) => (a.month < b.month ? -1 : a.month > b.month ? 1 : a.currency < b.currency ? -1 : 1))
    .map((one): Open => ({ approved: one, paid: 0, deducted: 0 }));
  const inOrder = [...payments].sort((a, b) =>
    a.day === b.day ? (a.id < b.id ? -1 : 1) : a.day < b.day ? -1 : 1,
  );
  const purses = inOrder.flatMap((payment) => {
    const worth = worthOf(payment);
    return worth ? [{ payment, ...worth, left: worth.minor, laid: new Map<string, Minor>() }] : [];
  });
  // What a network took back from an account is taken from what it paid last.
  for (const debit of purses.filter(({ minor }) => minor < 0))
    for (const purse of purses.toReversed()) {
      if (purse.currency !== debit.currency || purse.left <= 0 || debit.left >= 0) continue;
      const taken = Math.min(purse.left, -debit.left);
      purse.left -= taken;
      debit.left += taken;
    }
  for (const purse of [
    ...purses.filter(({ payment }) => payment.months),
    ...purses.filter(({ payment }) => !payment.months),
  ])
    for (const one of months) {
      const { month, currency } = one.approved;
      if (currency !== purse.currency || (purse.payment.months && !purse.payment.months.includes(month)))
        continue;
      const part = Math.min(Math.max(0, restOf(one)), Math.max(0, purse.left));
      if (part === 0) continue;
      one.paid += part;
      purse.left -= part;
      addTo(purse.laid, month, part);
    }
  for (const negative of months)
    for (const one of months) {
      if (one.approved.currency !== negative.approved.currency) continue;
      const part = Math.min(-restOf(negative), Math.max(0, restOf(one)));
      if (part <= 0) continue;
      one.deducted += part;
      negative.deducted -= part;
    }
  const due = pays
    ? dueDays(
        months.filter(({ approved: { currency } }) => currency === pays.currency),
        pays.terms,
      )
    : new Map<Open, string>();
  // Nobody knows the least a network pays in a currency that is not its own.
  if (pays)
    for (const one of months)
      if (one.approved.currency !== pays.currency)
        due.set(one, dayOf(endOf(one.approved.month, pays.terms.days)));
  const ahead = new Map<string, Minor>();
  for (const { currency, left } of purses) if (left !== 0) addTo(ahead, currency, left);
  const now = Date.parse(`${today}T00:00:00Z`);
  const daysSince = (at: number) => Math.max(0, Math.floor((now - at) / dayMs));
  return {
    months: months.map((one): Owed => {
      const owed = restOf(one);
      const by = due.get(one);
      return {
        ...one.approved,
        paid: one.paid,
        deducted: one.deducted,
        owed,
        days: daysSince(endOf(one.approved.month)),
        ...(by !== undefined && { due: by }),
        late: by === undefined || owed <= 0 ? 0 : daysSince(Date.parse(`${by}T00:00:00Z`)),
      };
    }),
    payments: purses.map(({ payment, minor, currency, left, laid }) => ({
      id: payment.id,
      worth: minor,
      currency,
      laid: [...laid].map(([month, part]) => ({ month, minor: part })),
      left,
    })),
    ahead: new Map([...ahead].filter(([, minor]) => minor !== 0)),
  };
};
