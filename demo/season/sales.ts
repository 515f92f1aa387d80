import type { CaseKind } from '#core/reconcile';
import { calendarDay, monthIn } from '#core/hop';
import type { JournalDraft } from '#core/visits';
import { appeal } from './catalogue.ts';
import type { Made } from './catalogue.ts';
import type { Visit } from './people.ts';
import { decimal, plantLoose, quota } from './loose.ts';
import { plantRare } from './rare.ts';
import { Chance } from './random.ts';
import type { Fault, Sale } from './sale.ts';
import type { Total } from './totals.ts';
import { totalsOf } from './totals.ts';

type PostbackDraft = Extract<JournalDraft, { kind: 'postback' }>;

export interface Sales {
  readonly sales: readonly Sale[];
  readonly postbacks: readonly PostbackDraft[];
  readonly faults: readonly Fault[];
  readonly totals: readonly Total[];
  /** The last day the reports cover, `2026-11-21`, as days since 1970. */
  readonly reportedUntil: number;
}

const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;

const query = (fields: Readonly<Record<string, string | number>>): string =>
  Object.entries(fields)
    .map(([name, value]) => `${name}=${encodeURIComponent(String(value))}`)
    .join('&');

const senders: Readonly<Record<string, string>> = {
  net_harrowmead: '192.0.2.10',
  net_kelvane: '192.0.2.20',
  net_osprenet: '192.0.2.30',
  net_vennor: '192.0.2.40',
};

/**
 * Lets some of the people buy, and says what networks told us of it and what they reported, every peculiarity and fault
 * included. What reconciling must find is written down as it is planted.
 */
export const sell = (made: Made, visits: readonly Visit[], seed: number, end: number): Sales => {
  const chance = new Chance(seed ^ 0x5a1e5);
  const links = new Map(made.links.map((link) => [link.id, link]));
  const zones = new Map(made.networks.map((network) => [network.id, network.zone]));
  const zoneOf = (network: string) => zones.get(network) ?? 'UTC';
  const reportedUntil = Math.floor(end / day) - 2;
  const covered = (network: string, at: number) => calendarDay(zoneOf(network), at) <= reportedUntil;
  const begin = visits[0]?.hop.at ?? end;
  const faults: Fault[] = [];
  const plant = (kind: CaseKind, network: string, key: string) => faults.push({ kind, network, key });
  const left: Record<keyof typeof quota, number> = { ...quota };
  const take = (name: keyof typeof quota, fits: boolean): boolean => {
    if (!fits || left[name] === 0) return false;
    left[name] -= 1;
    return true;
  };

  const sales: Sale[] = [];
  const postbacks: PostbackDraft[] = [];
  let number = 0;
  const delay = () => Math.min(27 * day, Math.exp(chance.normal() * 2.1) * 35 * minute) + 40_000;
  const keep = (
    network: string,
    at: number,
    via: 'GET' | 'POST',
    fields: Record<string, string | number>,
  ) => {
    const text = query(fields);
    postbacks.push({
      kind: 'postback',
      at: Math.round(at),
      network,
      via,
      query: via === 'GET' ? text : '',
      body: via === 'GET' ? null : text,
      ...(via === 'POST' && { type: 'application/x-www-form-urlencoded' }),
      ip: senders[network] ?? '',
    });
    // A network that hears no answer in time tries again: the very same twice.
    if (chance.chance(0.03))
      postbacks.push({ ...(postbacks.at(-1) as PostbackDraft), at: Math.round(at + 65_000) });
  };
  /** Weeks of Osprenet in which no postback came: the third of the second month. */
  const outage: readonly [number, number] = [begin + 44 * day, begin + 51 * day];
  const both: readonly [number, number] = [begin + 20 * day, begin + 58 * day];
  const unfilledFrom = begin + 38 * day;
  /** The month that Harrowmead reports once more, with less in it. */
  const correctedMonth = monthIn(zoneOf('net_harrowmead'), end - 50 * day);

  const sell1 = (visit: Visit, event: string, at: number, amount: number): void => {
    const { hop } = visit;
    const link = links.get(hop.link);
    const network = link?.network ?? '';
    const program = link?.program ?? '';
    const n = number++;
    switch (network) {
      case 'net_harrowmead': {
        const txn = `HM-${881_204 + n}`;
        const cut = hop.click.slice(0, 20);
        const unfilled = take('unfilled', program === 'prg_2111' && at > unfilledFrom);
        const early = !unfilled && take('early', at > begin + 30 * day);
        const happened = early ? hop.at - 3 * hour : at;
        const approvedAt = at + (6 + chance.next() * 20) * day;
        const approved = approvedAt < end - 3 * day;
        const reversed = approved && chance.chance(0.06);
        const changed = !unfilled && !early && !reversed && approved && take('amount', n % 9 === 4);
        const known = amount;
        const said = changed ? Math.round(amount * 0.8) : amount;
        const plain = !unfilled && !early && !reversed && !changed && covered(network, happened);
        const takenBackAt = happened + 6 * day;
        const refund =
          plain && approved && take('refund', n % 5 === 2 && covered(network, takenBackAt))
            ? { at: takenBackAt, amount: -Math.round(amount * 0.3), heard: false, reported: true }
            : undefined;
        const items =
          plain && !refund && take('items', n % 6 === 1)
            ? [Math.floor(amount * 0.6), amount - Math.floor(amount * 0.6)]
            : undefined;
        const dropped =
          plain &&
          !refund &&
          !items &&
          take('dropped', n % 4 === 3 && monthIn(zoneOf(network), happened) === correctedMonth);
        const fields = (state: string) => ({
          click: unfilled ? '[[ref1]]' : cut,
          event: 'sale',
          status: state,
          amount: decimal(known, 2),
          currency: 'EUR',
          txn,
        });
        keep(network, at + 20_000 + chance.next() * 60_000, 'GET', {
          ...fields('open'),
          at: new Date(Math.floor(happened / 1000) * 1000).toISOString(),
        });
        if (approved)
          keep(network, approvedAt, 'GET', {
            ...fields(reversed ? 'cancelled' : 'confirmed'),
            at: new Date(Math.floor(approvedAt / 1000) * 1000).toISOString(),
          });
        sales.push({
          network,
          program,
          click: hop.click,
          clickAt: hop.at,
          event,
          txn,
          at: happened,
          currency: 'EUR',
          amount,
          report: covered(network, happened)
            ? {
                click: cut,
                amount: said,
                currency: 'EUR',
                state: reversed ? 'reversed' : approved ? 'approved' : 'pending',
                at: happened,
              }
            : undefined,
          heard: { at: happened, amount: known, currency: 'EUR', counts: !reversed },
          twice: false,
          ...(refund && { refund }),
          ...(items && { items }),
          ...(dropped && { dropped }),
        });
        if (refund) plant('refund', network, txn);
        if (dropped) plant('no longer listed', network, txn);
        if (unfilled) plant('placeholder not filled', network, txn);
        else plant('cut short', network, txn);
        if (changed && covered(network, happened)) plant('amount', network, txn);
        if (early) plant('before its click', network, txn);
        return;
      }
      case 'net_kelvane': {
        const txn = `KV${40_000 + n}`;
        const lostBoth = take('lostBoth', program === 'prg_88' && n % 7 === 2);
        const late = !lostBoth && take('late', at < end - 40 * day && n % 5 === 1);
        const happened = late ? hop.at + 33 * day : at;
        const missing =
          !lostBoth &&
          !late &&
          take('missingRow', at > begin + 8 * day && covered(network, at + 6 * day) && n % 6 === 3);
        const twice = program === 'prg_71' && happened > both[0] && happened < both[1] && !missing;
        const machine = visit.who === 'machine';
        const test = visit.who === 'test';
        const arrived = happened + 3000 + chance.next() * 9000;
        const happenedSeconds = Math.floor(happened / 1000);
        keep(network, arrived, 'GET', {
          click: lostBoth ? '{k1}' : hop.click,
          event,
          status: 'accepted',
          amount: decimal(amount, 2),
          txn,
          at: happenedSeconds,
        });
        if (twice)
          keep(network, arrived + 1500, 'GET', {
            click: hop.click,
            event,
            status: 'accepted',
            amount: decimal(amount, 2),
            at: happenedSeconds,
          });
        sales.push({
          network,
          program,
          click: hop.click,
          clickAt: hop.at,
          event,
          txn,
          at: happened,
          currency: 'USD',
          amount,
          report:
            covered(network, happened) && !missing
              ? {
                  click: lostBoth ? '' : hop.click,
                  amount,
                  currency: 'USD',
                  state: 'approved',
                  at: happened,
                }
              : undefined,
          heard: { at: happened, amount, currency: 'USD', counts: true },
          twice,
        });
        if (lostBoth) plant('placeholder not filled', network, txn);
        if (missing) plant('not in report', network, txn);
        if (late) plant('outside the window', network, txn);
        if (twice) plant('sent twice', network, `twice ${hop.click}`);
        if (machine) plant('click of a bot', network, txn);
        if (test) plant('click of a test', network, txn);
        return;
      }
      case 'net_osprenet': {
        const txn = `os-${(5_000_000 + n * 37).toString(36)}`;
        const euro = chance.chance(0.35);
        const currency = euro ? 'EUR' : 'JPY';
        const mine = euro ? amount : Math.round(amount * 1.6);
        const silent = at >= outage[0] && at < outage[1];
        const reversed = n % 12 === 5 && covered(network, at);
        const mixed = !silent && !reversed && euro && take('currency', covered(network, at));
        // Its postbacks tell no time, so that of arrival stands.
        const arrived = Math.round(at + 15_000 + chance.next() * 30_000);
        const fields = (status: string) => ({
          click: hop.click.toLowerCase(),
          status,
          amount: decimal(mine, euro ? 2 : 0),
          currency,
          txn,
        });
        if (!silent) keep(network, arrived, 'GET', fields('new'));
        const approvedAt = at + (4 + chance.next() * 12) * day;
        if (
          !silent &&
          !reversed &&
          approvedAt < end - 2 * day &&
          !(approvedAt >= outage[0] && approvedAt < outage[1])
        )
          keep(network, approvedAt, 'GET', fields('ok'));
        const inReport = covered(network, at);
        sales.push({
          network,
          program,
          click: hop.click,
          clickAt: hop.at,
          event,
          txn,
          at,
          currency,
          amount: mine,
          report: inReport
            ? {
                click: hop.click.toLowerCase(),
                amount: mixed ? Math.round(mine * 1.6) : mine,
                currency: mixed ? 'JPY' : currency,
                state: reversed ? 'reversed' : approvedAt < end - 2 * day ? 'approved' : 'pending',
                at,
              }
            : undefined,
          heard: silent ? undefined : { at: arrived, amount: mine, currency, counts: true },
          twice: false,
        });
        if (silent && !inReport) return;
        plant('case changed', network, txn);
        if (silent) plant('no postback', network, txn);
        if (!silent && reversed) plant('reversed', network, txn);
        if (mixed) plant('currency', network, txn);
        return;
      }
      default: {
        const txn = `VD-${2200 + n}`;
        const below = take('below', covered(network, at) && n % 3 === 0);
        const arrived = Math.round(at + 8000 + chance.next() * 20_000);
        keep(network, arrived, 'POST', { click: hop.click, event: 'sale', txn });
        sales.push({
          network,
          program,
          click: hop.click,
          clickAt: hop.at,
          event,
          txn,
          at,
          currency: 'GBP',
          amount: 600,
          report: covered(network, at)
            ? { click: hop.click, amount: below ? 500 : 600, currency: 'GBP', state: 'approved', at }
            : undefined,
          heard: { at: arrived, amount: 600, currency: 'GBP', counts: true },
          twice: false,
        });
        if (below) plant('below terms', network, txn);
      }
    }
  };
  const priceOf = (program: string): number => {
    switch (program) {
      case 'prg_88':
        return 450;
      case 'prg_umbra':
        return Math.round(900 + chance.next() * 5200);
      case 'prg_2111':
        return Math.round(180 + chance.next() * 620);
      default:
        return Math.round(190 + chance.next() * 1900);
    }
  };

  for (const visit of visits) {
    const { hop, who } = visit;
    const link = links.get(hop.link);
    const program = link?.program ?? '';
    if (
      who === 'machine' &&
      hop.source === 'bought-b' &&
      link?.network === 'net_kelvane' &&
      left.machine > 0
    ) {
      left.machine -= 1;
      sell1(
        visit,
        program === 'prg_71' ? 'trial' : 'lead',
        hop.at + 20 * minute,
        program === 'prg_71' ? 200 : 450,
      );
      continue;
    }
    if (who !== 'person' || !chance.chance(appeal[program]?.buys ?? 0)) continue;
    const at = Math.round(hop.at + delay());
    if (at >= end - hour) continue;
    if (program === 'prg_71') {
      sell1(visit, 'trial', at, 200);
      // Who stays after the trial pays for a year; both belong to the one click.
      const later = at + 25 * day;
      if (chance.chance(0.45) && later < end - hour && later < hop.at + 29.5 * day)
        sell1(visit, 'yearly', later, 1250);
    } else sell1(visit, program === 'prg_88' ? 'lead' : 'sale', at, priceOf(program));
  }
  const loose = { made, visits, chance, begin, end, covered, plant, keep, sales, next: () => number++, left };
  plantLoose(loose);
  plantRare(loose);

  return {
    sales,
    postbacks: postbacks.sort((a, b) => a.at - b.at || (a.query < b.query ? -1 : 1)),
    faults,
    totals: totalsOf(sales, zoneOf),
    reportedUntil,
  };
};
