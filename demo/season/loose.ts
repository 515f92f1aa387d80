import { clickId } from '#core/hop';
import type { CaseKind } from '#core/reconcile';
import type { Made } from './catalogue.ts';
import type { Visit } from './people.ts';
import type { Chance } from './random.ts';
import type { Sale } from './sale.ts';

const minute = 60_000;
const hour = 60 * minute;
const day = 24 * hour;

/** Minor units as a decimal text. */
export const decimal = (minor: number, places: number): string =>
  places === 0 ? String(minor) : (minor / 10 ** places).toFixed(places);

/** How many of each fault are planted, where it is not a habit of the network. */
export const quota = {
  unfilled: 9,
  lostBoth: 2,
  amount: 6,
  missingRow: 5,
  stranger: 3,
  recordMissing: 2,
  machine: 3,
  late: 2,
  early: 1,
  below: 4,
  currency: 1,
  refund: 3,
  items: 4,
  dropped: 2,
} as const;

/** What is planted without regard to who bought, and by what it is written down. */
export interface Loose {
  readonly made: Made;
  readonly visits: readonly Visit[];
  readonly chance: Chance;
  readonly begin: number;
  readonly end: number;
  readonly covered: (network: string, at: number) => boolean;
  readonly plant: (kind: CaseKind, network: string, key: string) => void;
  readonly keep: (
    network: string,
    at: number,
    via: 'GET' | 'POST',
    fields: Record<string, string | number>,
  ) => void;
  readonly sales: Sale[];
  readonly next: () => number;
  readonly left: Record<keyof typeof quota, number>;
}

/** Faults that no click of a person leads to: strangers' sales, lost records, a test order, one click claimed by two. */
export const plantLoose = ({
  visits,
  chance,
  begin,
  end,
  covered,
  plant,
  keep,
  sales,
  next,
  left,
}: Loose): void => {
  const kelvane = (
    click: string,
    program: string,
    event: string,
    at: number,
    amount: number,
    inRow = click,
  ): string => {
    const txn = `KV${40_000 + next()}`;
    keep('net_kelvane', at + 5000, 'GET', {
      click,
      event,
      status: 'accepted',
      amount: decimal(amount, 2),
      txn,
      at: Math.floor(at / 1000),
    });
    const heard = { at, amount, currency: 'USD', counts: true };
    sales.push({
      network: 'net_kelvane',
      program,
      click,
      clickAt: at,
      event,
      txn,
      at,
      currency: 'USD',
      amount,
      report: covered('net_kelvane', at)
        ? { click: inRow, amount, currency: 'USD', state: 'approved', at }
        : undefined,
      heard,
      twice: false,
    });
    return txn;
  };
  const somewhere = () => Math.round(begin + (0.1 + chance.next() * 0.75) * (end - begin));
  for (; left.stranger > 0; left.stranger--) {
    const txn = kelvane(`pub-5150-${left.stranger}-${chance.hex(6)}`, 'prg_88', 'lead', somewhere(), 450);
    plant('not one of ours', 'net_kelvane', txn);
  }
  for (; left.recordMissing > 0; left.recordMissing--) {
    const at = somewhere();
    const txn = kelvane(clickId(at - hour, chance.bytes(10)), 'prg_88', 'lead', at, 450);
    plant('record missing', 'net_kelvane', txn);
  }
  const kelvaneLinks = new Set(['lnk_redlamp', 'lnk_headlamp', 'lnk_starmap', 'lnk_starmaptrial']);
  const test = visits.find(({ who, hop }) => who === 'test' && kelvaneLinks.has(hop.link));
  if (test)
    plant(
      'click of a test',
      'net_kelvane',
      kelvane(test.hop.click, programOf(test), 'lead', test.hop.at + 4 * minute, 450),
    );
  // One click, and two programs that both claim it.
  const shared = visits.find(
    ({ who, hop }) =>
      who === 'person' &&
      hop.link === 'lnk_redlamp' &&
      hop.at > begin + 33 * day &&
      !sales.some((sale) => sale.click === hop.click),
  );
  if (shared) {
    const { click, at } = shared.hop;
    plant('claimed twice', 'net_kelvane', kelvane(click, 'prg_88', 'lead', at + 10 * minute, 450));
    plant('claimed twice', 'net_kelvane', kelvane(click, 'prg_93', 'print', at + 55 * minute, 300));
  }
  // A print sold to the only one who could have come from us, told without a click ID.
  const print = visits.findLast(({ hop }) => hop.link === 'lnk_printmoon');
  if (print && covered('net_kelvane', print.hop.at + 2 * day))
    plant('one click fits', 'net_kelvane', kelvane('', 'prg_93', 'print', print.hop.at + 2 * day, 300, ''));
};

const programOf = ({ hop }: Visit): string => (hop.link.startsWith('lnk_star') ? 'prg_71' : 'prg_88');
