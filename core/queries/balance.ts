import type { ClosedMonth } from '#core/catalogue';
import type { Bridge, Cause, ClickCause } from '#core/reconcile';
import { balanceOf, rowsOfSeq } from '#core/reconcile';
import type { NetworkScope } from './clicks.ts';
import { clickBridge } from './clicks.ts';
import type { LedgerLine } from './conversions.ts';
import type { Dataset } from './dataset.ts';
import type { LedgerSort } from './ledgerOrder.ts';
import { orderUnits } from './ledgerOrder.ts';
import type { Visit } from './visits.ts';
import { clickIn, visitIn } from './visits.ts';

/** A bridge as a screen shows it: how many records each piece is made of, not which. */
export interface BridgeView<C extends string = Cause> {
  readonly ours: number;
  readonly theirs: number;
  readonly pieces: readonly { readonly cause: C; readonly value: number; readonly count: number }[];
  readonly unexplained: number;
  /** False where no report says anything of it: then theirs is not 0 but unknown. */
  readonly reported: boolean;
}

/** The three lines of a balance. */
export interface BalanceLines {
  readonly clicks: BridgeView<ClickCause>;
  readonly conversions: BridgeView;
  readonly commission: readonly { readonly currency: string; readonly bridge: BridgeView }[];
  /** First and last day their reports cover; empty texts where none does. */
  readonly covered: { readonly from: string; readonly until: string };
}

export interface BalanceView extends BalanceLines {
  /** Of a closed month, which is shown as it was then: when it was closed, and what it comes to now. */
  readonly closed?: { readonly at: number; readonly now: BalanceLines };
}

const viewOf = ({ ours, theirs, pieces, unexplained }: Bridge, reported: boolean): BridgeView => ({
  ours,
  theirs,
  unexplained,
  reported,
  pieces: pieces.map(({ cause, value, ids }) => ({ cause, value, count: ids.length })),
});

/** Every month in which something was earned with a network by either side's word, newest first. */
export const months = (data: Dataset, network: string): string[] => {
  const found = new Set<string>();
  for (const unit of data.reconciled.units)
    if (unit.network === network)
      for (const side of [unit.ours, unit.theirs]) if (side) found.add(side.month);
  return [...found].sort().reverse();
};

/** Programs, links and sources that earned or could have with a network in a month, to look at one of them. */
export const parts = (
  data: Dataset,
  network: string,
  month: string,
): { programs: string[]; links: string[]; sources: string[] } => {
  const programs = new Set<string>();
  const links = new Set<string>();
  const sources = new Set<string>();
  for (const unit of data.reconciled.units) {
    if (unit.network !== network || (unit.ours?.month !== month && unit.theirs?.month !== month)) continue;
    programs.add(unit.program);
    links.add(unit.link);
    sources.add(unit.source);
  }
  const list = (names: Set<string>) => [...names].filter((name) => name !== '').sort();
  return { programs: list(programs), links: list(links), sources: list(sources) };
};

/** A balance as it was frozen, or undefined for a month closed before the whole of it was kept. */
const frozen = ({ shown }: ClosedMonth): BalanceLines | undefined => {
  if (!shown) return undefined;
  const { waiting: _, ...lines } = shown;
  // A closed month holds the causes of the program that closed it.
  return lines as BalanceLines;
};

/** The closed month that is looked at, if it is the whole of one. */
export const closedIn = (
  data: Dataset,
  { network, month, program, link, source }: NetworkScope,
): ClosedMonth | undefined =>
  program === undefined && link === undefined && source === undefined
    ? data.records.months.find((one) => one.network === network && one.month === month)
    : undefined;

/** Ours, theirs and what lies between, with one network; of a closed month as it was when it was closed. */
export const balance = (data: Dataset, scope: NetworkScope): BalanceView => {
  const now = balanceNow(data, scope);
  const month = closedIn(data, scope);
  return month ? { ...(frozen(month) ?? now), closed: { at: month.at, now } } : now;
};

/** Ours, theirs and what lies between, by what is known now. */
export const balanceNow = (data: Dataset, scope: NetworkScope): BalanceLines => {
  const { units, covered } = data.reconciled;
  const { network, month } = scope;
  const { conversions, commission } = balanceOf(units, scope);
  const clicks = clickBridge(data, scope);
  const stretches = covered.filter((one) => one.network === network);
  const reported = stretches.some(
    ({ from, until }) => month === undefined || (from.slice(0, 7) <= month && month <= until.slice(0, 7)),
  );
  const ends = stretches.map((one) => one.until).sort();
  return {
    clicks: {
      ours: clicks.ours,
      theirs: clicks.theirs,
      unexplained: clicks.unexplained,
      reported: clicks.reported,
      pieces: clicks.pieces.map(({ cause, value, records, rolledUp }) => ({
        cause,
        value,
        count: records.length + rolledUp,
      })),
    },
    conversions: viewOf(conversions, reported),
    commission: [...commission].map(([currency, bridge]) => ({ currency, bridge: viewOf(bridge, reported) })),
    covered: { from: stretches.map((one) => one.from).sort()[0] ?? '', until: ends.at(-1) ?? '' },
  };
};

/**
 * The records a piece of a bridge is made of: conversions, or requests and how many more only the roll-up knows.
 *
 * @param about whose piece it is: of `clicks`, of `conversions`, or of the commission in a currency
 */
export const pieceOf = (
  data: Dataset,
  scope: NetworkScope,
  about: string,
  cause: Cause | ClickCause,
  most: number,
  sort?: LedgerSort,
): { lines: LedgerLine[]; visits: Visit[]; rolledUp: number } => {
  if (about === 'clicks') {
    const piece = clickBridge(data, scope).pieces.find((one) => one.cause === cause);
    const rows = rowsOfSeq(data.journal.columns, new Set(piece?.records.slice(-most)));
    const visits = rows.reverse().map((row) => visitIn(data, row));
    return { lines: [], visits, rolledUp: piece?.rolledUp ?? 0 };
  }
  const { units } = data.reconciled;
  const { conversions, commission } = balanceOf(units, scope);
  const bridge = about === 'conversions' ? conversions : commission.get(about);
  const ids = new Set([
    ...(bridge?.pieces.find((piece) => piece.cause === cause)?.ids ?? []),
    ...(bridge?.unexplainedIds ?? []),
  ]);
  const found = units.filter((unit) => ids.has(unit.id) && unit.cause === cause);
  const lines = (sort ? orderUnits(found, sort, data.records.links) : found)
    .slice(0, most)
    .map((unit) => ({ unit, click: clickIn(data, unit.match.row) }));
  return { lines, visits: [], rolledUp: 0 };
};
