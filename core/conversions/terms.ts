import type { Program, Terms } from '#core/catalogue';
import type { Minor } from '#core/values';

/** The terms of a program for an event on a day (`2026-10-24`): the newest that had begun, one for that very event first. */
export const termsOn = (program: Pick<Program, 'terms'>, event: string, day: string): Terms | undefined =>
  (program.terms ?? [])
    .filter((terms) => terms.from <= day && (terms.event === '' || terms.event === event))
    .sort((a, b) =>
      a.event === b.event ? (a.from < b.from ? 1 : -1) : Number(a.event === '') - Number(b.event === ''),
    )[0];

/**
 * What a conversion earns by the terms, in minor units; undefined where they do not say. A share is rounded half away
 * from zero to a minor unit.
 *
 * @param nth how many-th of its month it is, from 1
 * @param value minor units of the order's value, where it is known
 */
export const priceOf = (terms: Terms, nth: number, value?: Minor): Minor | undefined => {
  switch (terms.kind) {
    case 'fixed':
      return terms.amount;
    case 'tiers':
      return [...terms.steps].sort((a, b) => b.from - a.from).find((step) => nth >= step.from)?.amount;
    case 'percent': {
      if (value === undefined) return undefined;
      const exact = BigInt(Math.abs(value)) * BigInt(terms.basisPoints);
      const rounded = Number((exact + 5000n) / 10_000n);
      return value < 0 ? -rounded : rounded;
    }
  }
};

/** The currency terms are in; undefined for a share, which is in that of the order. */
export const currencyOf = (terms: Terms): string | undefined =>
  terms.kind === 'percent' ? undefined : terms.currency;
