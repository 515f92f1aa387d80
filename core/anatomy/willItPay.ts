import type { Link, Marks, Network, Program } from '#core/catalogue';
import { clickSlot } from '#core/catalogue';
import { readLink } from './read.ts';
import { fillParameters } from './split.ts';

/** One thing a link needs so that it pays, and how it stands. */
export interface PayCheck {
  readonly about: 'account' | 'click ID' | 'marks' | 'postback';
  readonly state: 'good' | 'bad' | 'unknown';
  /** A plain sentence. */
  readonly because: string;
  /** The destination that would mend it, where one press can. */
  readonly mendedDestination?: string;
}

const hour = 3_600_000;

const ago = (ms: number): string => {
  if (ms < hour) return `${Math.max(1, Math.round(ms / 60_000))} min ago`;
  return ms < 48 * hour ? `${Math.round(ms / hour)} h ago` : `${Math.round(ms / (24 * hour))} days ago`;
};

/**
 * Asks whether a link will pay, with the checks that can be made without asking anybody.
 *
 * @param lastPostback when the network last sent a postback, in milliseconds since 1970 UTC; undefined for never
 * @param now milliseconds since 1970 UTC
 */
export const willItPay = (
  link: Pick<Link, 'destination'>,
  marks: Pick<Marks, 'rel'>,
  networks: readonly Network[],
  programs: readonly Program[],
  lastPostback: number | undefined,
  now: number,
): PayCheck[] => {
  const anatomy = readLink(link.destination, networks, programs);
  const { network } = anatomy;
  const account = anatomy.pairs.find((pair) => pair.role === 'account');
  const checks: PayCheck[] = [];

  if (!network)
    checks.push({
      about: 'account',
      state: 'unknown',
      because: `${anatomy.host} belongs to no network in Programs, so nobody can tell which account it credits.`,
    });
  else if (account === undefined || account.raw === '')
    checks.push({
      about: 'account',
      state: 'bad',
      because: 'The link names no account: nobody would be credited.',
    });
  else
    checks.push({
      about: 'account',
      state: 'good',
      because: `It credits ${account.decoded} at ${network.name}.`,
    });

  const slot = network && clickSlot(network.slots);
  if (link.destination.includes('{click}'))
    checks.push({
      about: 'click ID',
      state: 'good',
      because: 'Every click carries its own ID to the network.',
    });
  else
    checks.push({
      about: 'click ID',
      state: 'bad',
      because: 'No click ID goes along, so no sale can ever be matched to its click.',
      ...(slot && { mendedDestination: fillParameters(link.destination, { [slot.name]: '{click}' }) }),
    });

  const paidMark = marks.rel.includes('sponsored') || marks.rel.includes('nofollow');
  checks.push({
    about: 'marks',
    state: paidMark ? 'good' : 'bad',
    because: paidMark
      ? 'Search engines are told that it is paid.'
      : 'Search engines are not told that it is paid.',
  });

  if (network)
    checks.push(
      lastPostback === undefined
        ? {
            about: 'postback',
            state: 'unknown',
            because: `No postback from ${network.name} has come yet. Set its address there.`,
          }
        : {
            about: 'postback',
            state: 'good',
            because: `${network.name} last sent a postback ${ago(now - lastPostback)}.`,
          },
    );
  return checks;
};
