import { notRedirectedBranches } from '#core/hop';
import type { ClassificationRules, Outcome } from '../classificationRules.ts';
import { defaultRules } from '../classificationRules.ts';
import type { HopRecord } from '../records.ts';

const notRedirected: ReadonlySet<string> = new Set(notRedirectedBranches);

/**
 * The rules of classification written down record by record, as plainly as they can be: what `Classification` has to
 * agree with. Feed it the hops in the order of the journal.
 *
 * @param isRobot tells whether a user agent declares itself a robot
 */
export const plainClassifier = (
  isRobot: (userAgent: string) => boolean,
  rules: ClassificationRules = defaultRules,
): ((hop: HopRecord) => Outcome) => {
  const lastCounted = new Map<string, number>();
  const requests = new Map<string, number[]>();
  const robots = new Map<string, boolean>();
  const own = new Set<string>();

  const declaresRobot = (userAgent: string): boolean => {
    let answer = robots.get(userAgent);
    if (answer === undefined) robots.set(userAgent, (answer = userAgent === '' || isRobot(userAgent)));
    return answer;
  };

  /** Counts the visitor's requests before this one, back to the first that lies further away than a burst lasts. */
  const isInBurst = ({ visitor, at }: HopRecord): boolean => {
    const times = requests.get(visitor) ?? [];
    const run =
      times.length - 1 - times.findLastIndex((time) => Math.abs(at - time) >= rules.burstSeconds * 1000);
    requests.set(visitor, [...times.slice(-rules.burstRequests), at]);
    return run >= rules.burstRequests;
  };

  return (hop) => {
    if (hop.test) {
      if (rules.ownByTest) own.add(hop.visitor);
      return 'test';
    }
    if (hop.prefetch) return 'prefetch';
    if (own.has(hop.visitor)) return 'test';
    const burst = isInBurst(hop);
    if (declaresRobot(hop.ua) || hop.method === 'HEAD' || burst) return 'bot';
    const stayed = hop.status === 200 ? notRedirected.has(hop.branch) : hop.status < 300 || hop.status >= 400;
    if (stayed) return 'not redirected';
    const visit = `${hop.visitor} ${hop.link}`;
    const last = lastCounted.get(visit);
    if (last !== undefined && Math.abs(hop.at - last) < rules.repeatMinutes * 60_000) return 'repeat';
    lastCounted.set(visit, hop.at);
    return 'counted';
  };
};
