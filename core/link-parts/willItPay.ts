import type { Account, Link, Marks, Network, Program } from '#core/catalogue';
import { clickSlot } from '#core/catalogue';
import type { LinkParts, ReadPair } from './read.ts';
import { readLink } from './read.ts';
import { programOfShortLink } from './merchantShortLink.ts';
import { slotLoss } from './slots.ts';
import { placeTitle, withParts } from './places.ts';

/** One thing a link needs so that it pays, and how it stands. */
export interface PayCheck {
  readonly about: 'account' | 'program' | 'click ID' | 'shop' | 'order page' | 'marks' | 'postback';
  readonly state: 'good' | 'bad' | 'unknown';
  /** A plain sentence. */
  readonly because: string;
  /** The destination that would mend it, where one press can, and what the press does. */
  readonly mend?: { readonly destination: string; readonly words: string };
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

/** Names under which a click ID goes along most often, the likeliest first (common practice). */
const likely = [/click/i, /^(?:aff_?)?sub(?:_?id)?_?1?$/i, /^s(?:ub)?1$/i, /sub/i];

/**
 * The sub-ID slot of a link whose network nobody registered that a click ID most likely belongs in: the empty ones first, by
 * the usual names of slots. Undefined where none of its parameters has such a name.
 */
const likeliestSlot = (linkParts: LinkParts): ReadPair | undefined => {
  const rank = ({ name }: ReadPair): number => {
    const found = likely.findIndex((form) => form.test(name));
    return found < 0 ? likely.length : found;
  };
  return linkParts.pairs
    .filter(({ role }) => role === 'slot')
    .toSorted((a, b) => Number(a.raw !== '') - Number(b.raw !== '') || rank(a) - rank(b))[0];
};

interface Registers {
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly accounts: readonly Account[];
}

const accountCheck = (
  { network, host, link, pairs }: LinkParts,
  { accounts, programs }: Registers,
): PayCheck => {
  const own = network ? undefined : programOfShortLink(link, programs);
  if (own)
    return {
      about: 'account',
      state: 'unknown',
      because: `It is a short link of ${own.name}’s own: only a trace shows which account it credits.`,
    };
  const account = pairs.find((pair) => pair.role === 'account');
  if (!network)
    return {
      about: 'account',
      state: 'unknown',
      because: `${host} belongs to no network in Programs, so nobody can tell which account it credits.`,
    };
  if (account === undefined || account.raw === '')
    return {
      about: 'account',
      state: 'bad',
      because: 'The link names no account: nobody would be credited.',
    };
  const registered = accounts.filter((a) => a.network === network.id);
  const owner = registered.find((a) => a.tag === account.decoded)?.owner;
  const known = registered.length === 0 || owner !== undefined;
  return {
    about: 'account',
    state: known ? 'good' : 'bad',
    because: known
      ? `It credits ${account.decoded} at ${network.name}${owner === undefined ? '' : `: ${owner}`}.`
      : `${account.decoded} is not in the register of tags at ${network.name}.`,
  };
};

/** Nothing where the network's links name no program, or where all is well with it. */
const programCheck = ({ network, program, pairs }: LinkParts): PayCheck | undefined => {
  const code = pairs.find((pair) => pair.role === 'program');
  if (!network || !network.linkFormat.parameters.some(({ role }) => role === 'program')) return undefined;
  if (!code || code.raw === '')
    return { about: 'program', state: 'bad', because: 'The link names no program: no shop knows of it.' };
  if (!program)
    return {
      about: 'program',
      state: 'unknown',
      because: `No program of ${network.name} in Programs has the code ${code.decoded}, so its rules and terms are not known.`,
    };
  return program.state === 'joined'
    ? undefined
    : {
        about: 'program',
        state: 'bad',
        because: `${program.name} is ${program.state}: links to it credit nobody before it has accepted you.`,
      };
};

const clickCheck = (linkParts: LinkParts, { programs }: Registers): PayCheck => {
  const { network, pairs, link } = linkParts;
  const slot = network && clickSlot(network.slots);
  const carrier = pairs.find((pair) => pair.raw.includes('{click}'));
  const carries = network?.slots.find((s) => s.name === carrier?.name);
  const loss = carries && slotLoss(carries, '{click}');
  if (link.includes('{click}'))
    return {
      about: 'click ID',
      state: loss?.fatal ? 'bad' : 'good',
      because: loss?.message ?? 'Every click carries its own ID to the network.',
    };
  const own = network ? undefined : programOfShortLink(link, programs);
  if (own)
    return {
      about: 'click ID',
      state: 'unknown',
      because: `A short link of ${own.name}’s own carries no click ID: of its sales only a probable click can be named.`,
    };
  const mendAt = (name: string) => ({
    destination: withParts(link, { [name]: '{click}' }),
    words: `Fill ${placeTitle(name)}`,
  });
  if (slot) {
    const left = pairs.find((pair) => pair.name === slot.name)?.decoded;
    return {
      about: 'click ID',
      state: 'bad',
      because: left
        ? `${placeTitle(slot.name)} holds the word “${left}” where the click ID belongs, so no sale can ever be matched to its click.`
        : 'No click ID goes along, so no sale can ever be matched to its click.',
      mend: mendAt(slot.name),
    };
  }
  const likeliest = likeliestSlot(linkParts);
  if (!likeliest)
    return {
      about: 'click ID',
      state: 'bad',
      because:
        'No click ID goes along, so no sale can ever be matched to its click. None of its parameters has a usual name of a sub-ID slot: ask the network which it is.',
    };
  const name = placeTitle(likeliest.name);
  return {
    about: 'click ID',
    state: 'bad',
    because: `No click ID goes along, so no sale can ever be matched to its click. Networks often take sub-IDs as ${name}, ${
      likeliest.raw === ''
        ? 'and it is empty here.'
        : `which holds “${likeliest.decoded}” here: that would be replaced.`
    }`,
    mend: mendAt(likeliest.name),
  };
};

/** How bad a check stands. */
const severity = { good: 0, unknown: 1, bad: 2 } as const;

/**
 * Asks whether a link will pay, with the checks that can be made without asking anybody. Of a split every branch is looked at,
 * and the worst is told.
 *
 * @param lastPostback when the network last sent a postback, in milliseconds since 1970 UTC; undefined for never
 * @param now milliseconds since 1970 UTC
 */
export const willItPay = (
  link: Pick<Link, 'destination' | 'branches'>,
  marks: Pick<Marks, 'rel'>,
  registers: Registers,
  lastPostback: number | undefined,
  now: number,
  traced?: TraceResult,
): PayCheck[] => {
  const read = (destination: string) => readLink(destination, registers.networks, registers.programs);
  const main = read(link.destination);
  const { network } = main;
  const ways = [
    { name: undefined, linkParts: main },
    ...(link.branches ?? []).map((branch, i) => ({
      name: branch.name || `${i + 1}`,
      linkParts: read(branch.destination),
    })),
  ];
  /** The worst of all ways, named after its branch; what mends a branch is done in the branch. */
  const worst = (check: (linkParts: LinkParts) => PayCheck | undefined): PayCheck[] => {
    const found = ways.flatMap(({ name, linkParts }): PayCheck[] => {
      const made = check(linkParts);
      if (!made) return [];
      if (name === undefined) return [made];
      const { mend: _, ...rest } = made;
      return [{ ...rest, because: `Branch ${name}: ${made.because}` }];
    });
    const [first, ...others] = found;
    if (!first) return [];
    return [others.reduce((bad, next) => (severity[next.state] > severity[bad.state] ? next : bad), first)];
  };
  const checks: PayCheck[] = [
    ...worst((linkParts) => accountCheck(linkParts, registers)),
    ...worst(programCheck),
    ...worst((linkParts) => clickCheck(linkParts, registers)),
  ];

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
