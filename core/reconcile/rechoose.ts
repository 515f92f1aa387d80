import { casesOf, chosenClicks, latestDecisions } from './cases.ts';
import { clicksOf } from './clicks.ts';
import type { Books, Joined } from './reconcile.ts';
import type { Unit } from './units.ts';
import { makeUnits } from './units.ts';

const clickOf = ({ conversion }: Unit): string => conversion?.click.trim().toUpperCase() ?? '';
const monthOf = ({ program, ours }: Unit): string => `${program} ${ours?.month ?? ''}`;
const txnOf = ({ conversion, reported }: Unit): string => conversion?.txn || (reported?.txn ?? '');

/**
 * What ties units to each other, so that one cannot be made anew without the others: a transaction, a click they lead to,
 * what came as click ID, and the tiers of a program in a month.
 */
class Ties {
  readonly #txns = new Set<string>();
  readonly #rows = new Set<number>();
  readonly #clicks = new Set<string>();
  readonly #months = new Set<string>();
  readonly #tiered: ReadonlySet<string>;

  /** @param tiered programs whose terms count the conversions of a month */
  constructor(tiered: ReadonlySet<string>) {
    this.#tiered = tiered;
  }

  add(unit: Unit): void {
    const [txn, click] = [txnOf(unit), clickOf(unit)];
    if (txn !== '') this.#txns.add(txn);
    if (click !== '') this.#clicks.add(click);
    if (unit.match.row >= 0) this.#rows.add(unit.match.row);
    if (this.#tiered.has(unit.program)) this.#months.add(monthOf(unit));
  }

  holds(unit: Unit): boolean {
    if (this.#rows.has(unit.match.row)) return true;
    if (this.#txns.size > 0 && this.#txns.has(txnOf(unit))) return true;
    if (this.#clicks.size > 0 && this.#clicks.has(clickOf(unit))) return true;
    return this.#tiered.has(unit.program) && this.#months.has(monthOf(unit));
  }
}

/**
 * Gives conversions the clicks people chose since everything was joined, making only those units anew that this can
 * change; the result is what joining everything would give. Costs a few passes over the units, none over the clicks.
 *
 * @param books what was joined, with the decisions of now; of these only which clicks were chosen may differ
 */
export const rechoose = (joined: Joined, books: Books): Joined => {
  const chosen = chosenClicks(latestDecisions(books.decisions));
  const changed = new Set<string>();
  for (const [id, click] of chosen) if (joined.chosen.get(id) !== click) changed.add(id);
  for (const id of joined.chosen.keys()) if (!chosen.has(id)) changed.add(id);
  if (changed.size === 0) return joined;

  const clicks = clicksOf(books.columns, books.sieve, books.links, books.summedBefore);
  const ties = new Ties(
    new Set(
      books.programs.filter(({ terms }) => terms?.some(({ kind }) => kind === 'tiers')).map(({ id }) => id),
    ),
  );
  const affected = new Set<number>();
  const take = (place: number, unit: Unit) => {
    affected.add(place);
    ties.add(unit);
  };
  for (const [place, unit] of joined.units.entries()) if (changed.has(unit.id)) take(place, unit);
  for (;;) {
    const before = affected.size;
    for (const [place, unit] of joined.units.entries())
      if (!affected.has(place) && ties.holds(unit)) take(place, unit);
    if (affected.size > before) continue;
    const made = remake(joined, books, affected, chosen, clicks);
    // What they lead to now may tie them to others still.
    for (const unit of made.values()) ties.add(unit);
    const more = joined.units.some((unit, place) => !affected.has(place) && ties.holds(unit));
    if (more) continue;
    const units = joined.units.map((unit, place) => made.get(place) ?? unit);
    const anew = new Set([...made.values()].map(({ id }) => id));
    const cases = joined.cases.filter(({ unit }) => !anew.has(unit));
    for (const unit of made.values()) cases.push(...casesOf(unit));
    return { ...joined, units, cases, chosen };
  }
};

/** Makes some units anew, by their places. */
const remake = (
  joined: Joined,
  books: Books,
  places: ReadonlySet<number>,
  chosen: ReadonlyMap<string, string>,
  clicks: ReturnType<typeof clicksOf>,
): Map<number, Unit> => {
  const placeOf = new Map<string, number>();
  const pairs = [...places]
    .sort((a, b) => a - b)
    .flatMap((place) => {
      const unit = joined.units[place];
      if (!unit) return [];
      placeOf.set(unit.id, place);
      const { conversion, reported } = unit;
      return [{ ...(conversion && { ours: conversion }), ...(reported && { theirs: reported }) }];
    });
  const { networks, programs } = books;
  const units = makeUnits({ pairs, clicks, networks, programs, covered: joined.covered, chosen });
  return new Map(units.map((unit) => [placeOf.get(unit.id) ?? -1, unit]));
};
