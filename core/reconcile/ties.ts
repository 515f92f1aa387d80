import { Lists } from '#core/catalogue';
import type { Conversion } from '#core/conversions';
import { txnKey } from '#core/conversions';
import { clickKey } from './join.ts';
import type { Unit } from './unit.ts';

/** A program in a month. */
const monthOf = ({ program, ours }: Unit): string => `${program} ${ours?.month ?? ''}`;

const txnOf = ({ conversion, reported }: Unit): string => txnKey(conversion?.txn || (reported?.txn ?? ''));

/**
 * What ties units to each other, so that one cannot be made anew without the others: a transaction, a click they lead to,
 * and the tiers of a program in a month. Units are named by their places. A tie too many costs little, one that is missing is
 * wrong: so a unit that changes gets new ties and keeps the old ones.
 */
export class Ties {
  readonly #ids = new Map<string, number>();
  readonly #txns = new Lists<string, number>();
  readonly #rows = new Lists<number, number>();
  readonly #months = new Lists<string, number>();
  /** Clicks of conversions and report rows without a transaction, by what rows are looked up by. */
  readonly #loose = new Set<string>();
  readonly #tiered: ReadonlySet<string>;

  /** @param tiered programs whose terms count the conversions of a month */
  constructor(units: readonly Unit[], tiered: ReadonlySet<string>) {
    this.#tiered = tiered;
    for (const [place, unit] of units.entries()) {
      const { id, conversion, reported } = unit;
      this.#ids.set(id, place);
      const txn = txnOf(unit);
      if (txn !== '') this.#txns.put(txn, place);
      for (const side of [conversion, reported])
        if (side?.txn === '' && side.click !== '') this.#loose.add(clickKey(side.network, side.click));
      this.move(unit, place);
    }
  }

  /** Has a unit that may lead to another click, or be of another program, than before. */
  move(unit: Unit, place: number): void {
    const { row } = unit.match;
    if (row >= 0) this.#rows.put(row, place);
    if (this.#tiered.has(unit.program)) this.#months.put(monthOf(unit), place);
  }

  place(id: string): number | undefined {
    return this.#ids.get(id);
  }

  /** Places of the units of a transaction, whatever their network. */
  withTxn(txn: string): readonly number[] {
    return this.#txns.get(txnKey(txn));
  }

  /** True where a conversion or a report row without a transaction has its click, so that amounts may join them. */
  isAmongLoose({ network, click }: Conversion): boolean {
    return this.#loose.has(clickKey(network, click));
  }

  /** Places of all units tied to one, itself among them. */
  of(unit: Unit): readonly number[] {
    return [
      ...this.#txns.get(txnOf(unit)),
      ...(unit.match.row >= 0 ? this.#rows.get(unit.match.row) : []),
      ...(this.#tiered.has(unit.program) ? this.#months.get(monthOf(unit)) : []),
    ];
  }
}
