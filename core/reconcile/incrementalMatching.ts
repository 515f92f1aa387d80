import { element, present } from '#core/catalogue';
import type { Conversion } from '#core/conversions';
import { txnKey } from '#core/conversions';
import type { Case } from './cases.ts';
import { believedCases, casesOf, chosenClicks, latestDecisions, unitOfCase } from './cases.ts';
import type { ReconcileInput, MatchedBooks } from './reconcile.ts';
import { believe } from './reconcile.ts';
import type { Unit } from './unit.ts';
import { makeUnits } from './units.ts';

const monthOf = ({ program, ours }: Unit): string => `${program} ${ours?.month ?? ''}`;
const rawTxnOf = ({ conversion, reported }: Unit): string => conversion?.txn || (reported?.txn ?? '');
/** In one case: a tie too many costs little, one that is missing is wrong. */
const txnOf = ({ conversion, reported }: Unit): string => txnKey(conversion?.txn || (reported?.txn ?? ''));

/**
 * What ties units to each other, so that one cannot be made anew without the others: a transaction, a click they lead to,
 * and the tiers of a program in a month.
 */
class Ties {
  readonly #txns = new Set<string>();
  /** How long these are: most others are told by that. */
  readonly #lengths = new Set<number>();
  readonly #rows = new Set<number>();
  readonly #months = new Set<string>();
  readonly #tiered: ReadonlySet<string>;

  /** @param tiered programs whose terms count the conversions of a month */
  constructor(tiered: ReadonlySet<string>) {
    this.#tiered = tiered;
  }

  add(unit: Unit): void {
    const txn = txnOf(unit);
    if (txn !== '') {
      this.#txns.add(txn);
      this.#lengths.add(txn.length);
    }
    if (unit.match.row >= 0) this.#rows.add(unit.match.row);
    if (this.#tiered.has(unit.program)) this.#months.add(monthOf(unit));
  }

  holds(unit: Unit): boolean {
    if (this.#rows.has(unit.match.row)) return true;
    if (this.#lengths.has(rawTxnOf(unit).trim().length) && this.#txns.has(txnOf(unit))) return true;
    return this.#tiered.has(unit.program) && this.#months.has(monthOf(unit));
  }
}

/**
 * Takes conversions as people said since everything was matched. Undefined where that could change which report row is whose, or
 * what is a conversion at all.
 */
const rebelieve = (
  matched: MatchedBooks,
  believed: ReadonlySet<string>,
): { readonly matched: MatchedBooks; readonly changed: ReadonlySet<string> } | undefined => {
  const said = [...matched.believed, ...believed].filter(
    (id) => matched.believed.has(id) !== believed.has(id),
  );
  const changed = new Set(said.map(unitOfCase));
  if (changed.size === 0) return { matched: { ...matched, believed }, changed };
  const taken = new Map<string, Conversion>();
  for (const id of changed) {
    const heard = matched.open.get(id);
    if (!heard) return undefined;
    taken.set(id, believe(heard, believed));
  }
  const isAmount = said.some((id) => !id.startsWith('not verified|'));
  const txns = new Set([...taken.values()].map(({ txn }) => txnKey(txn)));
  const lengths = new Set([...txns].map((txn) => txn.length));
  const clicks = new Set([...taken.values()].map(({ click }) => click.toUpperCase()));
  // By its amount one without a transaction may have another row, or be what another postback repeats.
  if (txns.has('')) return undefined;
  const units = [...matched.units];
  for (let place = 0; place < units.length; place++) {
    const unit = element(units[place]);
    const { conversion } = unit;
    if (isAmount && conversion?.txn === '' && clicks.has(conversion.click.toUpperCase())) return undefined;
    // Most others are told by how long their transactions are.
    if (!lengths.has(rawTxnOf(unit).trim().length) || !txns.has(txnOf(unit))) continue;
    const anew = conversion && taken.get(conversion.id);
    if (!anew) return undefined;
    units[place] = { ...unit, conversion: anew };
  }
  const ledger = matched.ledger.map((one) =>
    lengths.has(one.txn.length) ? (taken.get(one.id) ?? one) : one,
  );
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
  const taken = rebelieve(before, believedCases(books.decisions));
  if (!taken) return undefined;
  const { matched } = taken;
  const changed = new Set(taken.changed);
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
