import { notRedirectedBranches } from '#core/hop';
import type { BotKind, ClassificationRules, Outcome } from '../classificationRules.ts';
import { defaultRules } from '../classificationRules.ts';
import type { HopRecord } from '../records.ts';

interface PlainOutcome {
  readonly outcome: Outcome;
  /** By what it is a machine's. */
  readonly kind: BotKind;
}

const notRedirected: ReadonlySet<string> = new Set(notRedirectedBranches);

/**
 * The rules of classification written down record by record, as plainly as they can be: what `Classification` has to
 * agree with. Takes the hops in the order of the journal and gives what became of each.
 *
 * @param isRobot tells whether a user agent declares itself a robot
 */
export const plainClassified = (
  hops: readonly HopRecord[],
  isRobot: (userAgent: string) => boolean,
  rules: ClassificationRules = defaultRules,
  isMail: (source: string) => boolean = () => false,
): PlainOutcome[] => {
  const lastCounted = new Map<string, number>();
  const robots = new Map<string, boolean>();

  const declaresRobot = (userAgent: string): boolean => {
    let answer = robots.get(userAgent);
    if (answer === undefined) robots.set(userAgent, (answer = userAgent === '' || isRobot(userAgent)));
    return answer;
  };

  // What is a test or a prefetch, and what else each visitor asked for.
  const own = new Set<string>();
  const first = new Map<HopRecord, Outcome>();
  const requests = new Map<string, HopRecord[]>();
  for (const hop of hops) {
    if (hop.test && rules.ownByTest) own.add(hop.visitor);
    if (hop.test || (own.has(hop.visitor) && !hop.prefetch)) first.set(hop, 'test');
    else if (hop.prefetch) first.set(hop, 'prefetch');
    else requests.set(hop.visitor, [...(requests.get(hop.visitor) ?? []), hop]);
  }

  // Back from each request to the first that lies further away than a burst lasts: so many are a burst, all of them.
  const inBurst = new Set<HopRecord>();
  for (const list of requests.values())
    for (const [i, { at }] of list.entries()) {
      const earlier = list.slice(0, i);
      const far = earlier.findLastIndex((hop) => Math.abs(at - hop.at) >= rules.burstSeconds * 1000);
      const run = list.slice(far + 1, i + 1);
      if (run.length > rules.burstRequests) for (const hop of run) inBurst.add(hop);
    }

  // So are three links of mailings within ten seconds and fifty requests from a hosting network, with all else of those ten seconds.
  const inScan = new Set<HopRecord>();
  const scans = (hop: HopRecord): boolean => hop.hosting === true && isMail(hop.source);
  for (const list of requests.values())
    for (const [i, newest] of list.entries()) {
      if (!scans(newest)) continue;
      const far = list.slice(0, i).findLastIndex((hop) => Math.abs(newest.at - hop.at) >= 10_000);
      const run = list.slice(far + 1, i + 1);
      if (
        new Set(
          run
            .slice(-50)
            .filter(scans)
            .map(({ link }) => link),
        ).size >= 3
      )
        for (const hop of run) inScan.add(hop);
    }

  const kindOf = (hop: HopRecord): BotKind => {
    if (hop.ua === '') return 'no user agent';
    if (declaresRobot(hop.ua)) return 'declared';
    if (hop.method === 'HEAD') return 'HEAD';
    if (inBurst.has(hop)) return 'burst';
    return inScan.has(hop) ? 'mail scanner' : '';
  };
  const outcomeOf = (hop: HopRecord): Outcome => {
    const known = first.get(hop);
    if (known !== undefined) return known;
    if (kindOf(hop) !== '') return 'bot';
    const stayed = hop.status === 200 ? notRedirected.has(hop.branch) : hop.status < 300 || hop.status >= 400;
    if (stayed) return 'not redirected';
    const visit = `${hop.visitor} ${hop.link}`;
    const last = lastCounted.get(visit);
    if (last !== undefined && Math.abs(hop.at - last) < rules.repeatMinutes * 60_000) return 'repeat';
    lastCounted.set(visit, hop.at);
    return 'counted';
  };
  return hops.map((hop) => {
    const outcome = outcomeOf(hop);
    return { outcome, kind: outcome === 'bot' ? kindOf(hop) : '' };
  });
};

/** The outcomes alone. */
export const plainOutcomes = (...given: Parameters<typeof plainClassified>): Outcome[] =>
  plainClassified(...given).map(({ outcome }) => outcome);
