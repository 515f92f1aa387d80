import type { Status } from '#core/catalogue';
import type { Conversion, Reported } from '#core/conversions';
import type { Minor } from '#core/values';
import type { ReportMatch } from './join.ts';
import type { Match } from './match.ts';

/** One side's word on a conversion. */
export interface Side {
  readonly amount: Minor | null;
  readonly currency: string;
  readonly status: Status;
  /** It is not reversed. */
  readonly counts: boolean;
  /** Milliseconds since 1970 UTC. */
  readonly at: number;
  /** Its month in the network's zone, `2026-10`. */
  readonly month: string;
  /** The postback brought no amount; this is what the program's terms say. */
  readonly priced: boolean;
}

/** Why our figure of a conversion and theirs differ; each has one at most. */
export type Cause =
  | 'no postback'
  | 'not read'
  | 'refund'
  | 'no longer listed'
  | 'sent twice'
  | 'not yet reported'
  | 'not in report'
  | 'reversed'
  | 'currency'
  | 'another month'
  | 'below terms'
  | 'amount'
  | 'written off';

/** What else is to be said of a conversion. */
export type Flag =
  'before its click' | 'outside the window' | 'click of a bot' | 'click of a test' | 'claimed twice';

/** A conversion as both sides see it: what reconciling counts and settles. At least one side has a word on it. */
export interface Unit {
  readonly id: string;
  readonly network: string;
  /** Empty where it is not known. */
  readonly program: string;
  readonly link: string;
  readonly source: string;
  readonly match: Match;
  readonly ours?: Side;
  readonly theirs?: Side;
  readonly conversion?: Conversion;
  readonly reported?: Reported;
  readonly cause?: Cause;
  readonly flags: readonly Flag[];
  /** Another unit that it repeats. */
  readonly repeats?: string;
  /** It takes back, and a postback said so too. */
  readonly heard?: true;
}

/** ID of a unit: that of its conversion, or of its row where no postback came. */
export const unitId = (pair: ReportMatch): string =>
  pair.ours ? pair.ours.id : `row ${pair.theirs.network} ${pair.theirs.key}`;

/** True where their row only takes money back from a sale: no conversion by itself. */
export const isRefund = ({ theirs }: Pick<ReportMatch, 'theirs'>): boolean => theirs?.refundOf !== undefined;

/** When a pair happened: by our word where we have one. Milliseconds since 1970 UTC. */
export const pairAt = (pair: ReportMatch): number => (pair.ours ? pair.ours.at : pair.theirs.at);

/** The network, transaction and event of a pair; a transaction that our side lacks is theirs. */
export const pairNames = (pair: ReportMatch): { network: string; txn: string; event: string } => {
  const { network, txn, event } = pair.ours ?? pair.theirs;
  return { network, txn: txn === '' ? (pair.theirs?.txn ?? '') : txn, event };
};

/**
 * The side whose word dates and prices a unit: theirs where they have one, else ours.
 *
 * @throws Error for a unit without a side, which none is made without
 */
export const leadingSide = ({ id, ours, theirs }: Pick<Unit, 'id' | 'ours' | 'theirs'>): Side => {
  const side = theirs ?? ours;
  if (!side) throw new Error(`${id} has no side.`);
  return side;
};

/** When a unit happened: by our word where we have one. Milliseconds since 1970 UTC. */
export const unitAt = (unit: Pick<Unit, 'id' | 'ours' | 'theirs'>): number =>
  (unit.ours ?? leadingSide(unit)).at;
