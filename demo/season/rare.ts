import type { CaseKind } from '#core/reconcile';
import { decimal } from './loose.ts';
import type { Loose } from './loose.ts';
import type { Visit } from './people.ts';

const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;

/** A lead of Kelvane's red lamps, and how its postback tells of it. */
interface RareLead {
  readonly kind: CaseKind;
  /** What its postback says over the usual. */
  readonly fields?: Readonly<Record<string, string | number>>;
  /** The click ID in the postback and in the report. */
  readonly click?: (own: string) => string;
  /** The postback is no conversion until a person settles it. */
  readonly unread?: true;
}

/** What networks send now and then, one of each. */
const leads: readonly RareLead[] = [
  { kind: 'amount not read', fields: { amount: '4,50' }, unread: true },
  { kind: 'amount not read', fields: { amount: '4,50 $' }, unread: true },
  { kind: 'state not read', fields: { status: 'in clearing' }, unread: true },
  { kind: 'currency not read', fields: { currency: 'XQZ' }, unread: true },
  { kind: 'time ahead', fields: { at: 'ahead' } },
  { kind: 'too short', click: (own) => own.slice(0, 10) },
  { kind: 'click of another network', click: (own) => own },
  { kind: 'doubtful amount' },
];

/** What every lead of Kelvane's red lamps has, however it is told. */
const leadOf = (hop: Visit['hop'], txn: string, at: number) => ({
  network: 'net_kelvane',
  program: 'prg_88',
  click: hop.click,
  clickAt: hop.at,
  event: 'lead',
  txn,
  at,
  currency: 'USD',
  twice: false,
});

/** Plants what is rare: postbacks that cannot be read surely, refunds, and clicks that are not Kelvane's. */
export const plantRare = ({ made, visits, begin, end, covered, plant, keep, sales, next }: Loose): void => {
  const network = 'net_kelvane';
  const networkOf = new Map(made.links.map((link) => [link.id, link.network]));
  const taken = new Set(sales.map((sale) => sale.click));
  /** A person's click that nobody bought by, on a link of a network. */
  const clickOf = (of: string, after: number) => {
    const found = visits.find(
      ({ who, hop }) =>
        who === 'person' &&
        hop.at > after &&
        hop.branch !== 'page' &&
        networkOf.get(hop.link) === of &&
        (of !== network || hop.link === 'lnk_redlamp') &&
        !taken.has(hop.click),
    );
    if (found) taken.add(found.hop.click);
    return found?.hop;
  };
  const step = (end - begin) / (leads.length + 4);
  for (const [i, { kind, fields, click, unread }] of leads.entries()) {
    const hop = clickOf(
      kind === 'click of another network' ? 'net_harrowmead' : network,
      begin + (i + 1) * step,
    );
    if (!hop) continue;
    const txn = `KV${40_000 + next()}`;
    const at = hop.at + 11 * minute;
    const arrived = Math.round(at + 5000);
    const said = click ? click(hop.click) : hop.click;
    const own = {
      click: said,
      event: 'lead',
      status: 'accepted',
      amount: decimal(450, 2),
      txn,
      at: Math.floor(at / 1000),
    };
    const isAhead = fields?.['at'] === 'ahead';
    keep(network, arrived, 'GET', {
      ...own,
      ...fields,
      ...(isAhead && { at: Math.floor(at / 1000) + 4_000_000 }),
    });
    const refund = kind === 'doubtful amount' ? -100 : 0;
    // Twice the same sum back, two days apart: is it once or twice?
    if (refund !== 0)
      for (const later of [2, 4])
        keep(network, arrived + later * day, 'GET', {
          ...own,
          amount: decimal(refund, 2),
          at: Math.floor((at + later * day) / 1000),
        });
    sales.push({
      ...leadOf(hop, txn, at),
      amount: 450 + refund,
      report: covered(network, at)
        ? { click: said, amount: 450 + refund, currency: 'USD', state: 'approved', at }
        : undefined,
      heard: unread
        ? undefined
        : { at: isAhead ? arrived : at, amount: 450 + refund, currency: 'USD', counts: true },
    });
    plant(kind, network, txn);
  }
  plantOverMidnight({ visits, begin, keep, sales, plant, next, networkOf, taken });
  // One that is taken back in part, and both sides say so: nothing waits for anybody.
  const hop = clickOf(network, begin + 2.5 * step);
  if (!hop) return;
  const txn = `KV${40_000 + next()}`;
  const at = hop.at + 9 * minute;
  const backAt = at + 3 * day;
  for (const [when, amount] of [
    [at, 450],
    [backAt, -120],
  ] as const)
    keep(network, Math.round(when + 5000), 'GET', {
      click: hop.click,
      event: 'lead',
      status: 'accepted',
      amount: decimal(amount, 2),
      txn,
      at: Math.floor(when / 1000),
    });
  const isCovered = covered(network, backAt);
  sales.push({
    ...leadOf(hop, txn, at),
    amount: 450,
    report: isCovered ? { click: hop.click, amount: 450, currency: 'USD', state: 'approved', at } : undefined,
    heard: { at, amount: 450, currency: 'USD', counts: true },
    refund: { at: backAt, amount: -120, heard: true, reported: isCovered },
  });
};

interface Midnight extends Pick<Loose, 'visits' | 'begin' | 'keep' | 'sales' | 'plant' | 'next'> {
  readonly networkOf: ReadonlyMap<string, string | undefined>;
  readonly taken: ReadonlySet<string>;
}

/** A sale of Osprenet minutes before a month ends, whose postback comes when the next has begun. */
const plantOverMidnight = ({ visits, begin, keep, sales, plant, next, networkOf, taken }: Midnight): void => {
  const network = 'net_osprenet';
  const later = new Date(begin + 25 * day);
  const monthEnd = Date.UTC(later.getUTCFullYear(), later.getUTCMonth() + 1, 1);
  const found = visits.findLast(
    ({ who, hop }) =>
      who === 'person' &&
      hop.at < monthEnd - hour &&
      networkOf.get(hop.link) === network &&
      !taken.has(hop.click),
  );
  if (!found) return;
  const { hop } = found;
  const txn = `os-${(5_000_000 + next() * 37).toString(36)}`;
  const at = monthEnd - 10 * minute;
  const arrived = monthEnd + 20 * minute;
  const click = hop.click.toLowerCase();
  keep(network, arrived, 'GET', { click, status: 'new', amount: '912', currency: 'JPY', txn });
  sales.push({
    network,
    program: 'prg_umbra',
    click: hop.click,
    clickAt: hop.at,
    event: 'sale',
    txn,
    at,
    currency: 'JPY',
    amount: 912,
    report: { click, amount: 912, currency: 'JPY', state: 'pending', at },
    heard: { at: arrived, amount: 912, currency: 'JPY', counts: true },
    twice: false,
  });
  plant('case changed', network, txn);
};
