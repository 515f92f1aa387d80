import type { Link, Network, Program } from '#core/catalogue';
import { pushTo } from '#core/catalogue';
import { txnKey } from '#core/conversions';

/** A stretch of days that a network's reports cover, both ends included; `2026-10-01`. */
export interface Covered {
  readonly network: string;
  readonly from: string;
  readonly until: string;
}

/** How many days after a click a network credits its sales, where it says nothing else. */
export const usualCookieDays = 30;

/** A link, and what else of it reconciling needs. */
export type HoldingLink = Pick<Link, 'id' | 'network' | 'program' | 'coupons'> & {
  /** By which reports may name it. */
  readonly slug?: string;
  /** Other networks it sent visitors to, by its branches or before it was changed. */
  readonly alsoOf?: readonly string[];
};

/** Who handed a coupon out. */
export interface Holder {
  readonly link: string;
  /** Empty where the link tells none. */
  readonly source: string;
  readonly program: string;
}

/** What the stages look up of networks, programs and covered days. */
export interface Lookup {
  /** Undefined for a network that was removed since. */
  network(id: string): Network | undefined;
  zone(network: string): string;
  cookieDays(network: string): number;
  program(id: string): Program | undefined;
  /** ID of the program that a report of a network calls by its name or code; empty where there is none. */
  programNamed(network: string, name: string): string;
  /** The only link that holds a coupon of a network; undefined where none does, or several. */
  holderOf(network: string, coupon: string): Holder | undefined;
  /** True where a report of the network covers a day. */
  covers(network: string, day: string): boolean;
  /** What a transaction of a network is compared by. */
  txnKey(network: string, txn: string): string;
  /** True where a postback of a transaction or click came and could not be read. */
  isUnread(network: string, txn: string, click: string): boolean;
}

/** A postback that could not be read, by what it can be known for. */
export interface UnreadName {
  readonly network: string;
  readonly txn: string;
  readonly click: string;
}

/** Makes the look-ups; each thing is found in one step. */
export const lookupOf = (
  networks: readonly Network[],
  programs: readonly Program[],
  covered: readonly Covered[],
  links: readonly HoldingLink[],
  unread: readonly UnreadName[] = [],
): Lookup => {
  const networkById = new Map(networks.map((network) => [network.id, network]));
  const programById = new Map(programs.map((program) => [program.id, program]));
  const programByName = new Map<string, string>();
  for (const { id, network, name, code } of programs)
    for (const called of [name, code])
      if (called !== '') programByName.set(`${network} ${called.toLowerCase()}`, id);
  const couponKey = (network: string, code: string) => `${network} ${code.trim().toLowerCase()}`;
  const holders = new Map<string, Holder[]>();
  for (const { id, network, program = '', coupons } of links)
    for (const code of coupons?.codes ?? [])
      if (network !== undefined)
        pushTo(holders, couponKey(network, code), { link: id, source: coupons?.source ?? '', program });
  const stretches = new Map<string, Covered[]>();
  for (const stretch of covered) pushTo(stretches, stretch.network, stretch);
  const keyOfTxn = (network: string, txn: string) =>
    txnKey(txn, networkById.get(network)?.postback.caseMatters);
  const unreadTxns = new Set<string>();
  const unreadClicks = new Set<string>();
  for (const { network, txn, click } of unread) {
    if (txn !== '') unreadTxns.add(`${network} ${keyOfTxn(network, txn)}`);
    else if (click !== '') unreadClicks.add(`${network} ${click.toUpperCase()}`);
  }
  return {
    txnKey: keyOfTxn,
    isUnread: (network, txn, click) =>
      (txn !== '' && unreadTxns.has(`${network} ${keyOfTxn(network, txn)}`)) ||
      (click !== '' && unreadClicks.has(`${network} ${click.toUpperCase()}`)),
    network: (id) => networkById.get(id),
    zone: (id) => networkById.get(id)?.zone ?? 'UTC',
    cookieDays: (id) => networkById.get(id)?.cookieDays ?? usualCookieDays,
    program: (id) => programById.get(id),
    programNamed: (network, name) =>
      name === '' ? '' : (programByName.get(`${network} ${name.toLowerCase()}`) ?? ''),
    holderOf: (network, coupon) => {
      const [only, ...others] = coupon === '' ? [] : (holders.get(couponKey(network, coupon)) ?? []);
      return others.length === 0 ? only : undefined;
    },
    covers: (network, day) =>
      stretches.get(network)?.some(({ from, until }) => from <= day && day <= until) ?? false,
  };
};
