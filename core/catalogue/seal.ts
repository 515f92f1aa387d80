import * as v from 'valibot';
import type { Generation } from './generation.ts';
import { moment } from './fields.ts';

/**
 * A seal of the server's journal as it is kept elsewhere: by browsers, closed months, claims and backups. As long as it is
 * one of the chain's, no record up to `seq` was altered since.
 */
export const keptSeal = v.strictObject({
  /** SHA-256 of the chain's line, in hex. */
  hash: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'A seal has 64 hex digits.')),
  /** The newest record it covers. */
  seq: v.pipe(v.number(), v.safeInteger(), v.minValue(0)),
  at: moment,
});
export type KeptSeal = v.InferOutput<typeof keptSeal>;

/** A seal as a browser keeps it, with the generation of the server's data in which it heard of it. */
export interface BrowserSeal extends KeptSeal {
  readonly generation: string;
}

const dayMs = 86_400_000;
/** How many days of seals a browser keeps. */
const mostDays = 400;

/** Adds a seal to those a browser keeps, oldest first: of each UTC day the newest one stays. */
export const keepSeal = (kept: readonly BrowserSeal[], seal: BrowserSeal): readonly BrowserSeal[] => {
  const before = kept.at(-1);
  if (before?.hash === seal.hash) return kept;
  const isSameDay = before && Math.floor(before.at / dayMs) === Math.floor(seal.at / dayMs);
  return [...(isSameDay ? kept.slice(0, -1) : kept), seal].slice(-mostDays);
};

/**
 * The newest of the kept seals that a server's chain has to hold: one beyond the place where an older folder was put back is
 * lost with what it sealed. Since each seal rests on those before, one that is there stands for all of them.
 *
 * @param generations all of the server's, oldest first
 */
export const sealToCheck = (
  kept: readonly BrowserSeal[],
  generations: readonly Generation[],
): BrowserSeal | undefined => {
  const places = new Map(generations.map(({ id }, i) => [id, i]));
  return kept.findLast(({ generation, seq }) => {
    const place = places.get(generation);
    return place !== undefined && generations.slice(place + 1).every((later) => later.seq >= seq);
  });
};
