import type { Account, Link, Marks, Network, Program } from '#core/catalogue';
import { clickSlot } from '#core/catalogue';
import { readLink } from './read.ts';
import { slotLoss } from './slots.ts';
import { withParts } from './places.ts';

/** One thing a link needs so that it pays, and how it stands. */
export interface PayCheck {
  readonly about: 'account' | 'click ID' | 'shop' | 'order page' | 'marks' | 'postback';
  readonly state: 'good' | 'bad' | 'unknown';
  /** A plain sentence. */
  readonly because: string;
  /** The destination that would mend it, where one press can. */
  readonly mendedDestination?: string;
}

/** What the last trace of a link came to. */
export interface TraceResult {
  /** Milliseconds since 1970 UTC. */
  readonly at: number;
  readonly alive: boolean;
  readonly because: string;
  /** What still stood on the order page, where one was found. */
  readonly surviving?: readonly string[];
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
  accounts: readonly Account[],
  lastPostback: number | undefined,
  now: number,
  traced?: TraceResult,
): PayCheck[] => {
  const linkParts = readLink(link.destination, networks, programs);
  const { network } = linkParts;
  const account = linkParts.pairs.find((pair) => pair.role === 'account');
  const checks: PayCheck[] = [];

  if (!network)
    checks.push({
      about: 'account',
      state: 'unknown',
      because: `${linkParts.host} belongs to no network in Programs, so nobody can tell which account it credits.`,
    });
  else if (account === undefined || account.raw === '')
    checks.push({
      about: 'account',
      state: 'bad',
      because: 'The link names no account: nobody would be credited.',
    });
  else {
    const registered = accounts.filter((a) => a.network === network.id);
    const owner = registered.find((a) => a.tag === account.decoded)?.owner;
    const known = registered.length === 0 || owner !== undefined;
    checks.push({
      about: 'account',
      state: known ? 'good' : 'bad',
      because: known
        ? `It credits ${account.decoded} at ${network.name}${owner === undefined ? '' : `: ${owner}`}.`
        : `${account.decoded} is not in the register of tags at ${network.name}.`,
    });
  }

  const slot = network && clickSlot(network.slots);
  const carrier = linkParts.pairs.find((pair) => pair.raw.includes('{click}'));
  const carries = network?.slots.find((s) => s.name === carrier?.name);
  const loss = carries && slotLoss(carries, '{click}');
  if (link.destination.includes('{click}'))
    checks.push({
      about: 'click ID',
      state: loss?.fatal ? 'bad' : 'good',
      because: loss?.message ?? 'Every click carries its own ID to the network.',
    });
  else {
    const left = slot && linkParts.pairs.find((pair) => pair.name === slot.name)?.decoded;
    checks.push({
      about: 'click ID',
      state: 'bad',
      because: left
        ? `${slot.name} holds the word “${left}” where the click ID belongs, so no sale can ever be matched to its click.`
        : 'No click ID goes along, so no sale can ever be matched to its click.',
      ...(slot && { mendedDestination: withParts(link.destination, { [slot.name]: '{click}' }) }),
    });
  }

  if (traced) {
    checks.push(
      traced.alive
        ? { about: 'shop', state: 'good', because: `It answered ${ago(now - traced.at)}.` }
        : { about: 'shop', state: 'bad', because: `${traced.because} Traced ${ago(now - traced.at)}.` },
    );
    if (traced.surviving !== undefined)
      checks.push(
        traced.surviving.length > 0
          ? {
              about: 'order page',
              state: 'good',
              because: `${traced.surviving.join(', ')} still stood on the order page.`,
            }
          : {
              about: 'order page',
              state: 'bad',
              because: 'Nothing that credits you was left on the order page.',
            },
      );
  }

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
