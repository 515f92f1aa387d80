import { addTo, pushTo, present } from '#core/catalogue';
import type { Minor } from '#core/values';
import type { Cause, Unit } from './unit.ts';

/** What is being looked at; what is left out is not asked about. */
export interface Scope {
  readonly network?: string;
  /** In the network's zone, `2026-10`. */
  readonly month?: string;
  readonly program?: string;
  readonly link?: string;
  readonly source?: string;
}

/** A part of the difference with one cause. */
export interface Piece<C extends string = Cause> {
  readonly cause: C;
  /** What it adds to ours to come to theirs. */
  readonly value: number;
  /** The records it is made of. */
  readonly ids: readonly string[];
}

/** Ours, theirs, and what lies between: ours + pieces + unexplained = theirs, exactly. */
export interface Bridge<C extends string = Cause> {
  readonly ours: number;
  readonly theirs: number;
  readonly pieces: readonly Piece<C>[];
  /** What nothing explains yet. */
  readonly unexplained: number;
  readonly unexplainedIds: readonly string[];
}

export interface Balance {
  readonly conversions: Bridge;
  /** Commission by currency, in minor units. */
  readonly commission: ReadonlyMap<string, Bridge>;
}

/** Every cause, in the order in which they are shown. What explains nothing is left for somebody to find out. */
const explains = {
  'no postback': true,
  'not read': true,
  refund: true,
  'no longer listed': true,
  'sent twice': true,
  'not yet reported': true,
  reversed: true,
  'another month': true,
  amount: true,
  'below terms': true,
  'written off': true,
  currency: false,
  'not in report': false,
} as const satisfies Record<Cause, boolean>;
const causes = Object.keys(explains) as Cause[]; // its keys are the causes

/** True when a unit belongs to what is looked at, its month left out. */
const isIn = (unit: Unit, { network, program, link, source }: Scope): boolean =>
  (network === undefined || unit.network === network) &&
  (program === undefined || unit.program === program) &&
  (link === undefined || unit.link === link) &&
  (source === undefined || unit.source === source);

class Sums {
  ours = 0;
  theirs = 0;
  readonly values = new Map<Cause, number>();
  readonly ids = new Map<Cause, string[]>();

  add(ours: number, theirs: number, cause: Cause | undefined, id: string): void {
    this.ours += ours;
    this.theirs += theirs;
    if (ours === theirs) return;
    // Whatever differs has a cause; one that had none would be unexplained.
    const named = cause ?? 'not in report';
    addTo(this.values, named, theirs - ours);
    pushTo(this.ids, named, id);
  }

  bridge(): Bridge {
    const list = causes.filter((cause) => this.ids.has(cause));
    const left = list.filter((cause) => !explains[cause]);
    return {
      ours: this.ours,
      theirs: this.theirs,
      pieces: list
        .filter((cause) => explains[cause])
        .map((cause) => ({
          cause,
          value: present(this.values.get(cause), cause),
          ids: present(this.ids.get(cause), cause),
        })),
      unexplained: left.reduce((sum, cause) => sum + present(this.values.get(cause), cause), 0),
      unexplainedIds: left.flatMap((cause) => present(this.ids.get(cause), cause)),
    };
  }
}

/** Conversions and commission of what is looked at. Money of different currencies is never added. One pass. */
export const balanceOf = (units: readonly Unit[], scope: Scope): Balance => {
  const conversions = new Sums();
  const commission = new Map<string, Sums>();
  const money = (currency: string): Sums => {
    let sums = commission.get(currency);
    if (!sums) commission.set(currency, (sums = new Sums()));
    return sums;
  };
  const { month } = scope;
  for (const unit of units) {
    if (!isIn(unit, scope)) continue;
    const { ours, theirs, cause, id } = unit;
    const weHave = ours !== undefined && ours.counts && (month === undefined || ours.month === month);
    const theyHave = theirs !== undefined && theirs.counts && (month === undefined || theirs.month === month);
    if (!weHave && !theyHave) continue;
    const isSale = unit.reported?.refundOf === undefined && !unit.conversion?.refundOnly;
    if (isSale) conversions.add(weHave ? 1 : 0, theyHave ? 1 : 0, cause, id);
    const our: Minor = weHave ? (ours.amount ?? 0) : 0;
    const their: Minor = theyHave ? (theirs.amount ?? 0) : 0;
    if (weHave && theyHave && ours.currency === theirs.currency)
      money(ours.currency).add(our, their, cause, id);
    else {
      if (weHave) money(ours.currency).add(our, 0, cause, id);
      if (theyHave) money(theirs.currency).add(0, their, cause, id);
    }
  }
  return {
    conversions: conversions.bridge(),
    commission: new Map(
      [...commission]
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([currency, sums]) => [currency, sums.bridge()]),
    ),
  };
};
