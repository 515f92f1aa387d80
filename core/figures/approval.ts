import { element } from '#core/catalogue';
import type { Status } from '#core/catalogue';
import { arrivals } from './arrivals.ts';
import type { Interval } from './rates.ts';
import { rateInterval } from './rates.ts';

/** A conversion and what the network has made of it. */
export interface Decided {
  readonly status: Status;
  /** Since it came: until it was approved or reversed, or until now where it is pending. */
  readonly ms: number;
  /** Since it came until now. */
  readonly ageMs: number;
}

/** How much of what is pending usually becomes approved. */
export interface Approval extends Interval {
  readonly share: number;
  /** Of how many conversions that is known. */
  readonly of: number;
}

/** A conversion is old enough to know of once so many of the decisions have usually been made. */
const mostDecided = 0.9;

/**
 * The share of a program's conversions that became approved, with its interval (Wilson), of those that are old enough to know: reversals
 * often come sooner than approvals, or later, so that of young ones only the sooner are seen. When a decision usually comes is told by
 * Kaplan and Meier's estimate, for which pending ones were waited for until now. One that is old and pending still was not approved.
 *
 * @returns undefined where none is old enough, or none was decided yet
 */
export const approvalOf = (conversions: readonly Decided[]): Approval | undefined => {
  const steps = arrivals(conversions.map(({ status, ms }) => ({ ms, came: status !== 'pending' })));
  const all = steps.at(-1)?.share;
  if (all === undefined) return undefined;
  const enough = element(steps.find(({ share }) => share >= mostDecided * all)).ms;
  const old = conversions.filter(({ ageMs }) => ageMs >= enough);
  if (old.length === 0) return undefined;
  const approved = old.filter(({ status }) => status === 'approved' || status === 'paid').length;
  return { share: approved / old.length, of: old.length, ...rateInterval(approved, old.length) };
};
