import { heldBranches } from '#core/hop';
import type { HopRecord } from './records.ts';

const heldOnes: ReadonlySet<string> = new Set(heldBranches);

/** A visitor who was not sent on: the link was closed, set away, or refused. A page that sends on answers 200. */
const isHeld = ({ status, branch }: HopRecord): boolean =>
  status === 200 ? heldOnes.has(branch) : status < 300 || status >= 400;

/** What became of a request: exactly one of these. */
export type Outcome = 'test' | 'prefetch' | 'bot' | 'held' | 'again' | 'counted';

export interface SieveRules {
  /** How long the same visitor on the same link is not counted again, in minutes. */
  readonly againMinutes: number;
  /** More requests of one visitor than this … */
  readonly burstRequests: number;
  /** … within this many seconds are a machine's. */
  readonly burstSeconds: number;
  /** Whoever makes a test hop is the person: what the same visitor asks for after it is a test too. */
  readonly ownByTest?: boolean | undefined;
}

/** What counts where the person set nothing else. */
export const defaultRules: SieveRules = { againMinutes: 30, burstRequests: 20, burstSeconds: 10 };

/**
 * Makes a sieve. Feed it the hops in the order of the journal; it gives each one its outcome, the first that
 * fits: test, prefetch, bot, held, again, counted. Nothing is thrown away; another sieve counts the past anew.
 *
 * @param isRobot tells whether a user agent declares itself a robot
 */
export const makeSieve = (isRobot: (userAgent: string) => boolean, rules: SieveRules = defaultRules) => {
  const lastCounted = new Map<string, number>();
  const recent = new Map<string, number[]>();
  const known = new Map<string, boolean>();
  const own = new Set<string>();

  const robot = (userAgent: string): boolean => {
    let answer = known.get(userAgent);
    if (answer === undefined) known.set(userAgent, (answer = userAgent === '' || isRobot(userAgent)));
    return answer;
  };

  const burst = (hop: HopRecord): boolean => {
    const times = (recent.get(hop.visitor) ?? []).filter((at) => at > hop.at - rules.burstSeconds * 1000);
    times.push(hop.at);
    recent.set(hop.visitor, times);
    return times.length > rules.burstRequests;
  };

  return (hop: HopRecord): Outcome => {
    if (hop.test) {
      if (rules.ownByTest) own.add(hop.visitor);
      return 'test';
    }
    if (hop.prefetch) return 'prefetch';
    if (own.has(hop.visitor)) return 'test';
    const inBurst = burst(hop);
    if (robot(hop.ua) || hop.method === 'HEAD' || inBurst) return 'bot';
    if (isHeld(hop)) return 'held';
    const key = `${hop.visitor} ${hop.link}`;
    const before = lastCounted.get(key);
    if (before !== undefined && hop.at - before < rules.againMinutes * 60_000) return 'again';
    lastCounted.set(key, hop.at);
    return 'counted';
  };
};
