import { element, present } from '#core/catalogue';
import type { Conversion } from '#core/conversions';
import { txnKey } from '#core/conversions';
import type { Case } from './cases.ts';
import { believedCases, casesOf, chosenClicks, latestDecisions, unitOfCase } from './cases.ts';
import type { ReconcileInput, MatchedBooks } from './reconcile.ts';
import { believe } from './reconcile.ts';
import { Ties } from './ties.ts';
import type { Unit } from './unit.ts';
import { makeUnits } from './units.ts';

/** What ties the units of a list: made when a decision first needs it, and kept through those that follow. */
const tiesOf = new WeakMap<readonly Unit[], Ties>();

const madeTies = (units: readonly Unit[], { programs }: ReconcileInput): Ties => {
  const made =
    tiesOf.get(units) ??
    new Ties(
      units,
      new Set(
        programs.filter(({ terms }) => terms?.some(({ kind }) => kind === 'tiers')).map(({ id }) => id),
      ),
    );
  tiesOf.set(units, made);
  return made;
};

/**
 * Takes conversions as people said since everything was matched. Undefined where that could change which report row is whose, or
 * what is a conversion at all.
 */
const rebelieve = (
  matched: MatchedBooks,
  believed: ReadonlySet<string>,
  tiesNow: () => Ties,
): { readonly matched: MatchedBooks; readonly changed: ReadonlySet<string> } | undefined => {
  const said = [...matched.believed, ...believed].filter(
    (id) => matched.believed.has(id) !== believed.has(id),
  );
  const changed = new Set(said.map(unitOfCase));
  if (changed.size === 0) return { matched: { ...matched, believed }, changed };
  const ties = tiesNow();
  const taken = new Map<string, Conversion>();
  const units = [...matched.units];
  for (const id of changed) {
    const heard = matched.open.get(id);
    // By its amount one without a transaction may have another row, or be what another postback repeats.
    if (!heard || txnKey(heard.txn) === '') return undefined;
    taken.set(id, believe(heard, believed));
  }
  const isAmount = said.some((id) => !id.startsWith('not verified|'));
  for (const one of taken.values()) {
    if (isAmount && ties.isAmongLoose(one)) return undefined;
    for (const place of ties.withTxn(one.txn)) {
      const unit = element(units[place]);
      const anew = unit.conversion && taken.get(unit.conversion.id);
      if (!anew) return undefined;
      units[place] = { ...unit, conversion: anew };
    }
  }
  tiesOf.set(units, ties);
  const ledger = matched.ledger.map((one) => taken.get(one.id) ?? one);
  return { matched: { ...matched, ledger, units, believed }, changed };
};

/**
 * Applies what people decided since everything was matched, making only those units anew that this can change: the clicks they
 * chose, and how conversions are to be taken. The result is what joining everything would give. Costs a few passes over the
 * units, none over the clicks.
 *
 * @param books what was matched, with the decisions of now; nothing else of it may differ
 * @returns undefined where everything has to be matched anew
 */
export const rematch = (before: MatchedBooks, books: ReconcileInput): MatchedBooks | undefined => {
  const chosen = chosenClicks(latestDecisions(books.decisions));
  const taken = rebelieve(before, believedCases(books.decisions), () => madeTies(before.units, books));
  if (!taken) return undefined;
  const { matched } = taken;
  const changed = new Set(taken.changed);
  for (const [id, click] of chosen) if (matched.chosen.get(id) !== click) changed.add(id);
  for (const id of matched.chosen.keys()) if (!chosen.has(id)) changed.add(id);
  if (changed.size === 0) return matched;

  const { units } = matched;
  const ties = madeTies(units, books);
  const affected = new Set<number>();
  /** Takes a unit and all that is tied to it. */
  const spread = (from: Unit): void => {
    const next = [from];
    for (let unit = next.pop(); unit; unit = next.pop())
      for (const place of ties.of(unit))
        if (!affected.has(place)) {
          affected.add(place);
          next.push(element(units[place]));
        }
  };
  for (const id of changed) {
    const place = ties.place(id);
    if (place === undefined) continue;
    affected.add(place);
    spread(element(units[place]));
  }
  let made: Map<number, Unit>;
  let known: number;
  do {
    known = affected.size;
    made = remake(matched, books, affected, chosen);
    // What they lead to now may tie them to others still.
    for (const [place, unit] of made) {
      ties.move(unit, place);
      spread(unit);
    }
  } while (affected.size > known);

  const after = [...units];
  const anew = new Set<string>();
  const fresh: Case[] = [];
  for (const [place, unit] of made) {
    after[place] = unit;
    anew.add(unit.id);
    fresh.push(...casesOf(unit));
  }
  const cases = [...matched.cases.filter(({ unit }) => !anew.has(unit)), ...fresh];
  tiesOf.set(after, ties);
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
  const { clicks, covered, unread } = matched;
  const units = makeUnits({ pairs, clicks, networks, programs, covered, links, chosen, unread });
  return new Map(
    units.map((unit) => {
      const place = present(placeOf.get(unit.id), `place of ${unit.id}`);
      const { cause, repeats } = element(matched.units[place]);
      // What repeats another does so whatever its click; the other one need not be among these.
      return [place, cause === 'sent twice' && repeats !== undefined ? { ...unit, cause, repeats } : unit];
    }),
  );
};
