import type { Bridge, Cause, ClickCause, ClickDay } from '#core/reconcile';
import { balanceOf, daysApart, rowsOfSeq } from '#core/reconcile';
import type { NetworkScope } from './clicks.ts';
import { clickBridge } from './clicks.ts';
import type { LedgerLine } from './conversions.ts';
import type { Dataset } from './dataset.ts';
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

export interface BalanceView {
  readonly clicks: BridgeView<ClickCause>;
  readonly conversions: BridgeView;
  readonly commission: readonly { readonly currency: string; readonly bridge: BridgeView }[];
  /** Days whose clicks differ by more than a tenth. */
  readonly daysApart: readonly ClickDay[];
  /** First and last day their reports cover; empty texts where none does. */
  readonly covered: { readonly from: string; readonly until: string };
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

/** Ours, theirs and what lies between, with one network. */
export const balance = (data: Dataset, scope: NetworkScope): BalanceView => {
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
    daysApart: daysApart(clicks),
    covered: { from: stretches.map((one) => one.from).sort()[0] ?? '', until: ends.at(-1) ?? '' },
  };
};

/** The records a piece of the bridge is made of: conversions, or requests and how many more only the roll-up knows. */
export const pieceOf = (
  data: Dataset,
  scope: NetworkScope,
  cause: Cause | ClickCause,
  most: number,
): { lines: LedgerLine[]; visits: Visit[]; rolledUp: number } => {
  const ofClicks = clickBridge(data, scope).pieces.find((piece) => piece.cause === cause);
  if (ofClicks) {
    const rows = rowsOfSeq(data.journal.columns, new Set(ofClicks.records.slice(-most)));
    const visits = rows.reverse().map((row) => visitIn(data, row));
    return { lines: [], visits, rolledUp: ofClicks.rolledUp };
  }
  const { units } = data.reconciled;
  const { conversions, commission } = balanceOf(units, scope);
  const ids = new Set(
    [conversions, ...commission.values()].flatMap((bridge) => [
      ...bridge.pieces.filter((piece) => piece.cause === cause).flatMap((piece) => piece.ids),
      ...bridge.unexplainedIds,
    ]),
  );
  const lines = units
    .filter((unit) => ids.has(unit.id) && unit.cause === cause)
    .slice(0, most)
    .map((unit) => ({ unit, click: clickIn(data, unit.match.row) }));
  return { lines, visits: [], rolledUp: 0 };
};
