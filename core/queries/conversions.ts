import type { Scope, Unit } from '#core/reconcile';
import type { Dataset } from './dataset.ts';
import type { LedgerSort } from './ledgerOrder.ts';
import { orderUnits } from './ledgerOrder.ts';
import { clickIn } from './visits.ts';

/** A conversion as a line of the ledger. */
export interface LedgerLine {
  readonly unit: Unit;
  /** ID of its click; empty where none was found. */
  readonly click: string;
}

/** What we heard of a network's conversions in a stretch of time: by what a report would list them. */
export const heard = (
  data: Dataset,
  network: string,
  from: number,
  until: number,
): { readonly txn: string; readonly click: string; readonly at: number }[] =>
  data.reconciled.ledger
    .filter(
      (one) => one.network === network && one.unverified === undefined && one.at >= from && one.at < until,
    )
    .map(({ txn, click, at }) => ({ txn, click, at }));

/**
 * Conversions of a network and month that hold some words, and how many there are in all.
 *
 * @param sort what they are sorted by; the newest come first where it is left out
 */
export const ledger = (
  data: Dataset,
  scope: Scope,
  words: string,
  most: number,
  sort?: LedgerSort,
): { lines: LedgerLine[]; total: number } => {
  const wanted = words.trim().toLowerCase();
  // A link is known by its path to a person, by its ID to a file.
  const slugs = new Map(data.records.links.map(({ id, slug }) => [id, slug]));
  const found = data.reconciled.units.filter(
    (unit) =>
      (scope.network === undefined || unit.network === scope.network) &&
      (scope.month === undefined || unit.ours?.month === scope.month || unit.theirs?.month === scope.month) &&
      (wanted === '' ||
        [
          ...[unit.conversion?.txn, unit.reported?.txn, unit.link, slugs.get(unit.link)],
          ...[unit.source, unit.conversion?.click],
        ].some((text) => text?.toLowerCase().includes(wanted) === true)),
  );
  const ordered = sort ? orderUnits(found, sort, data.records.links) : found.toReversed();
  const lines = ordered.slice(0, most).map((unit) => ({ unit, click: clickIn(data, unit.match.row) }));
  return { lines, total: found.length };
};
