import { element } from '#core/catalogue';

/** What a source's requests are judged by, each against what the person's other sources show. */
export const signNames = [
  'burst',
  'agents',
  'hosting',
  'language',
  'again',
  'scrolled',
  'conversions',
] as const;
export type SignName = (typeof signNames)[number];

/** One thing that speaks for machines or against them. */
export interface Sign {
  readonly name: SignName;
  /**
   * Of this source: of `burst` the milliseconds in which half of its requests came, of `agents` how many user agents make four fifths
   * of them, else a share from 0 to 1.
   */
  readonly own: number;
  /** The same of the other sources; undefined where they are too few to compare with. */
  readonly others: number | undefined;
  /** It is what machines do, and by more than chance. */
  readonly isOdd: boolean;
}

export type Verdict = 'too few' | 'nothing odd' | 'something odd' | 'machines';

/** Requests of some sources, as what judging rests on. */
export interface JudgedRequests {
  /** When each came, in milliseconds since 1970 UTC, the earliest first. */
  readonly times: readonly number[];
  /** How often each user agent came, by any name of it. */
  readonly agents: ReadonlyMap<number, number>;
  /** Of how many it was looked up whether they came from a hosting network, and how many did. */
  readonly lookedUp: number;
  readonly hosting: number;
  /** How many said no language. */
  readonly withoutLanguage: number;
  readonly visitors: number;
  /** Visitors with another request at least a minute later. */
  readonly cameAgain: number;
  /** Visits to pages of the person's own that tell how they are read, and how many of those visitors scrolled. */
  readonly toPages: number;
  readonly scrolled: number;
  readonly visits: number;
  readonly conversions: number;
}

/** A time in which many came. */
export interface Burst {
  readonly from: number;
  /** The moment of its last request. */
  readonly until: number;
  readonly requests: number;
}

/** Fewer requests than this tell nothing. */
const fewest = 50;
/** What comes in less than this, with half of everything in it, is no reading public. */
const shortMs = 3_600_000;
const fewAgents = 3;
const ofAgents = 0.8;
/** How much more often no language is said than elsewhere. */
const languageMore = 0.3;
/** How much more often than elsewhere an address is a hosting network's. */
const hostingMore = 0.3;
/** As rarely as this a count so low comes by chance. */
const chance = 0.01;

/**
 * How likely at most `count` events are where `expected` are to be expected: the lower tail of the Poisson distribution (NIST/SEMATECH
 * e-Handbook of Statistical Methods, 1.3.6.6.19).
 */
export const atMost = (count: number, expected: number): number => {
  let term = Math.exp(-expected);
  let sum = term;
  for (let k = 1; k <= count; k++) {
    term *= expected / k;
    sum += term;
  }
  return Math.min(1, sum);
};

/** The shortest time in which half of the requests came. */
export const halfOf = (times: readonly number[]): Burst | undefined => {
  if (times.length === 0) return undefined;
  const half = Math.ceil(times.length / 2);
  let best: Burst | undefined;
  for (let i = 0; i + half <= times.length; i++) {
    const [from, until] = [element(times[i]), element(times[i + half - 1])];
    if (!best || until - from < best.until - best.from) best = { from, until, requests: half };
  }
  return best;
};

/** How many times the length that is looked at beside a burst is halved. */
const halvings = 6;

/** A burst with what came before and after it at a quarter of its rate at least, looked at by smaller and smaller parts of its length. */
export const wholeBurst = (times: readonly number[], { from, until, requests }: Burst): Burst => {
  const length = Math.max(1000, until - from);
  const enough = requests / length / 4;
  let [first, last] = [times.indexOf(from), times.lastIndexOf(until)];
  for (let halved = 0, step = length / 4; halved < halvings; halved++, step /= 2) {
    for (;;) {
      let next = first;
      while (next > 0 && element(times[next - 1]) >= element(times[first]) - step) next -= 1;
      if (first === next || first - next < enough * step) break;
      first = next;
    }
    for (;;) {
      let next = last;
      while (next + 1 < times.length && element(times[next + 1]) <= element(times[last]) + step) next += 1;
      if (next === last || next - last < enough * step) break;
      last = next;
    }
  }
  return { from: element(times[first]), until: element(times[last]), requests: last - first + 1 };
};

/** The user agents that come most often, as many as make four fifths of all. */
export const mostAgents = (agents: ReadonlyMap<number, number>): number[] => {
  const sorted = [...agents].toSorted((a, b) => b[1] - a[1] || a[0] - b[0]);
  const all = sorted.reduce((sum, [, count]) => sum + count, 0);
  const found: number[] = [];
  let reached = 0;
  for (const [agent, count] of sorted) {
    if (reached >= all * ofAgents) break;
    found.push(agent);
    reached += count;
  }
  return found;
};

const share = (part: number, whole: number): number => (whole === 0 ? 0 : part / whole);

/** A share that is lower than the others' by more than chance. */
const lower = (name: SignName, part: number, whole: number, ofPart: number, ofWhole: number): Sign => {
  const others = ofWhole < fewest ? undefined : share(ofPart, ofWhole);
  // What hardly ever happens elsewhere is missed nowhere.
  const isOdd = others !== undefined && atMost(part, others * whole) < chance;
  return { name, own: share(part, whole), others, isOdd };
};

/**
 * Judges requests of one source against those of the others. The rules are ours: half of everything within an hour, four fifths from at
 * most three user agents where others need five times as many, addresses of hosting networks or no language far more often than elsewhere, and nobody who comes again,
 * scrolls on a page of the person's own, or buys, where by the others' share chance would hardly ever have it so. *Machines* needs two of them, one of them how they came, whence, or
 * with what: a mailing brings a burst too, and a page in an app few user agents.
 */
export const judge = (
  own: JudgedRequests,
  others: JudgedRequests,
): { readonly verdict: Verdict; readonly signs: readonly Sign[] } => {
  const count = own.times.length;
  if (count < fewest) return { verdict: 'too few', signs: [] };
  const canCompare = others.times.length >= fewest;
  const half = halfOf(own.times);
  const length = half ? half.until - half.from : 0;
  const othersHalf = canCompare ? halfOf(others.times) : undefined;
  const agents = mostAgents(own.agents).length;
  const othersAgents = canCompare ? mostAgents(others.agents).length : undefined;
  const hosted = share(own.hosting, own.lookedUp);
  const othersHosted = others.lookedUp < fewest ? undefined : share(others.hosting, others.lookedUp);
  const silent = share(own.withoutLanguage, count);
  const othersSilent = canCompare ? share(others.withoutLanguage, others.times.length) : undefined;
  const signs: Sign[] = [
    {
      name: 'burst',
      own: length,
      others: othersHalf && othersHalf.until - othersHalf.from,
      isOdd:
        length < shortMs && (othersHalf === undefined || othersHalf.until - othersHalf.from > 4 * length),
    },
    {
      name: 'agents',
      own: agents,
      others: othersAgents,
      isOdd: agents <= fewAgents && (othersAgents === undefined || othersAgents >= agents * 5),
    },
    // What was looked up of few tells nothing of all.
    ...(own.lookedUp < Math.max(fewest, count / 2)
      ? []
      : [
          {
            name: 'hosting' as const,
            own: hosted,
            others: othersHosted,
            isOdd: hosted - (othersHosted ?? 0) > hostingMore,
          },
        ]),
    {
      name: 'language',
      own: silent,
      others: othersSilent,
      isOdd: silent - (othersSilent ?? 0) > languageMore,
    },
    lower('again', own.cameAgain, own.visitors, others.cameAgain, others.visitors),
    // Of pages that hardly anybody came to nothing is known.
    ...(own.toPages < fewest
      ? []
      : [
          lower(
            'scrolled',
            Math.min(own.scrolled, own.toPages),
            own.toPages,
            others.scrolled,
            others.toPages,
          ),
        ]),
    lower('conversions', own.conversions, own.visits, others.conversions, others.visits),
  ];
  const odd = signs.filter(({ isOdd }) => isOdd).map(({ name }) => name);
  const isMachines = odd.length >= 2 && odd.some((name) => ['burst', 'agents', 'hosting'].includes(name));
  return {
    verdict: isMachines ? 'machines' : odd.length > 0 ? 'something odd' : 'nothing odd',
    signs,
  };
};
