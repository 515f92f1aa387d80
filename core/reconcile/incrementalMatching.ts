import { element, present } from '#core/catalogue';
import type { Case } from './cases.ts';
import { casesOf, chosenClicks, latestDecisions } from './cases.ts';
import type { ReconcileInput, MatchedBooks } from './reconcile.ts';
import type { Unit } from './unit.ts';
import { makeUnits } from './units.ts';

const monthOf = ({ program, ours }: Unit): string => `${program} ${ours?.month ?? ''}`;
const txnOf = ({ conversion, reported }: Unit): string => conversion?.txn || (reported?.txn ?? '');

/**
 * What ties units to each other, so that one cannot be made anew without the others: a transaction, a click they lead to,
 * and the tiers of a program in a month.
 */
class Ties {
  readonly #txns = new Set<string>();
  readonly #rows = new Set<number>();
  readonly #months = new Set<string>();
  readonly #tiered: ReadonlySet<string>;

  /** @param tiered programs whose terms count the conversions of a month */
  constructor(tiered: ReadonlySet<string>) {
    this.#tiered = tiered;
  }

  add(unit: Unit): void {
    const txn = txnOf(unit);
    if (txn !== '') this.#txns.add(txn);
    if (unit.match.row >= 0) this.#rows.add(unit.match.row);
    if (this.#tiered.has(unit.program)) this.#months.add(monthOf(unit));
  }

  holds(unit: Unit): boolean {
    if (this.#rows.has(unit.match.row)) return true;
    if (this.#txns.size > 0 && this.#txns.has(txnOf(unit))) return true;
    return this.#tiered.has(unit.program) && this.#months.has(monthOf(unit));
  }
}

/**
 * Gives conversions the clicks people chose since everything was matched, making only those units anew that this can
 * change; the result is what joining everything would give. Costs a few passes over the units, none over the clicks.
 *
 * @param books what was matched, with the decisions of now; of these only which clicks were chosen may differ
 */
export const rematch = (matched: MatchedBooks, books: ReconcileInput): MatchedBooks => {
  const chosen = chosenClicks(latestDecisions(books.decisions));
  const changed = new Set<string>();
  for (const [id, click] of chosen) if (matched.chosen.get(id) !== click) changed.add(id);
  for (const id of matched.chosen.keys()) if (!chosen.has(id)) changed.add(id);
  if (changed.size === 0) return matched;

  const ties = new Ties(
    new Set(
      books.programs.filter(({ terms }) => terms?.some(({ kind }) => kind === 'tiers')).map(({ id }) => id),
    ),
  );
  const { units } = matched;
  const affected = new Set<number>();
  /** Takes what is tied to what is affected already; tells whether that was anything more. */
  const spread = (): boolean => {
    const before = affected.size;
    for (let place = 0; place < units.length; place++) {
      const unit = units[place];
      if (!unit || !ties.holds(unit) || affected.has(place)) continue;
      affected.add(place);
      ties.add(unit);
    }
    return affected.size > before;
  };
  for (let place = 0; place < units.length; place++) {
    const unit = units[place];
    if (!unit || !changed.has(unit.id)) continue;
    affected.add(place);
    ties.add(unit);
  }
  let made: Map<number, Unit>;
  do {
    while (spread());
    made = remake(matched, books, affected, chosen);
    // What they lead to now may tie them to others still.
    for (const unit of made.values()) ties.add(unit);
  } while (spread());

  const after = [...units];
  const anew = new Set<string>();
  const fresh: Case[] = [];
  for (const [place, unit] of made) {
    after[place] = unit;
    anew.add(unit.id);
    fresh.push(...casesOf(unit));
  }
  const cases = [...matched.cases.filter(({ unit }) => !anew.has(unit)), ...fresh];
  return { ...matched, units: after, cases, chosen };
};

/** Makes some units anew, by their places. */
const remake = (
  matched: MatchedBooks,
  books: ReconcileInput,
  places: ReadonlySet<number>,
  chosen: ReadonlyMap<string, string>,
): Map<number, Unit> => {
  const placeOf = new Map<string, number>();
  const pairs = [...places]
    .sort((a, b) => a - b)
    .flatMap((place) => {
      const unit = matched.units[place];
      if (!unit) return [];
      placeOf.set(unit.id, place);
      const { conversion, reported } = unit;
      return [{ ...(conversion && { ours: conversion }), ...(reported && { theirs: reported }) }];
    });
  const { networks, programs, links } = books;
  const { clicks, covered } = matched;
  const units = makeUnits({ pairs, clicks, networks, programs, covered, links, chosen });
  return new Map(
    units.map((unit) => {
      const place = present(placeOf.get(unit.id), `place of ${unit.id}`);
      const { cause, repeats } = element(matched.units[place]);
      // What repeats another does so whatever its click; the other one need not be among these.
      return [place, cause === 'sent twice' && repeats !== undefined ? { ...unit, cause, repeats } : unit];
    }),
  );
};
