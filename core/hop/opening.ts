import type { Domain, Link } from '#core/catalogue';
import { momentOf } from './zone.ts';

/** How a link stands to its opening hours; `closing` is open and closes within a week. */
export type OpeningState = 'not open yet' | 'open' | 'closing' | 'closed';

/** When a link opens and closes. */
export interface Opening {
  readonly state: OpeningState;
  /** The times as they were entered, such as `2026-10-24T08:00`, by the clock of `zone`. */
  readonly from?: string;
  readonly until?: string;
  readonly zone: string;
  /** The same in milliseconds since 1970 UTC. */
  readonly opens?: number;
  readonly closes?: number;
}

const week = 7 * 86_400_000;

/**
 * When a link opens and closes, and how it stands to that; undefined for one that is always open.
 *
 * @param now milliseconds since 1970 UTC
 */
export const openingOf = (
  { hours }: Pick<Link, 'hours'>,
  domain: Pick<Domain, 'zone'>,
  now: number,
): Opening | undefined => {
  const { from, until } = hours ?? {};
  if (from === undefined && until === undefined) return undefined;
  const zone = hours?.zone ?? domain.zone;
  const opens = from === undefined ? undefined : momentOf(zone, from);
  const closes = until === undefined ? undefined : momentOf(zone, until);
  const state = ((): OpeningState => {
    if (opens !== undefined && now < opens) return 'not open yet';
    if (closes === undefined) return 'open';
    if (now >= closes) return 'closed';
    return closes - now <= week ? 'closing' : 'open';
  })();
  return {
    state,
    zone,
    ...(from !== undefined && { from }),
    ...(until !== undefined && { until }),
    ...(opens !== undefined && { opens }),
    ...(closes !== undefined && { closes }),
  };
};
