import type {
  Branch,
  Checked,
  ClosedAnswer,
  Conditions,
  Domain,
  HopChoices,
  Hours,
  Problem,
} from '#core/catalogue';
import { isScriptAddress } from '#core/catalogue';
import { momentOf } from './zone.ts';
import type { Test } from './conditions.ts';
import { sameConditions, testOf } from './conditions.ts';
import { everyoneElse } from './branchNames.ts';
import type { Template } from './template.ts';
import { compileAnyway, compileDestination } from './template.ts';

/** A branch ready to be chosen. */
export interface ReadyBranch {
  readonly id: string;
  readonly name: string;
  readonly when: Conditions;
  readonly test: Test;
  readonly destination: Template;
  readonly weight: number;
  /** Branches of the same group have the very same conditions and share by weight. */
  readonly group: number;
}

/** What answers while a link is closed: a page of words, or another address. */
export type ReadyAnswer =
  | { readonly kind: 'page'; readonly words: string; readonly askMail: boolean; readonly consent: string }
  | { readonly kind: 'address'; readonly to: Template };

/** A link made ready to answer requests. */
export interface HopLink {
  readonly id: string;
  /** In the order in which they are tried; the last is the link's own destination, for everyone else. */
  readonly branches: readonly ReadyBranch[];
  readonly choices: HopChoices;
  /** IANA name; `{day}` is a day of this zone. */
  readonly zone: string;
  /** Milliseconds since 1970 UTC. */
  readonly opens: number | undefined;
  readonly closes: number | undefined;
  readonly before: ReadyAnswer;
  readonly after: ReadyAnswer;
  readonly gone: boolean;
  /** True when a branch asks whether the visitor is new. */
  readonly asksReturning: boolean;
}

/** What of a link and its domain decides how it hops. */
export interface PreparedParts {
  readonly id: string;
  readonly destination: string;
  readonly asText: readonly string[];
  readonly branches?: readonly Branch[];
  readonly weight?: number;
  readonly hours?: Hours;
  readonly archived?: { readonly to?: string };
}

const unsaid = { before: 'This offer has not begun yet.', after: 'This offer has ended.' };

const readyAnswer = (
  answer: ClosedAnswer = { kind: 'page', words: '', askMail: false, consent: '' },
  when: 'before' | 'after',
  path: string,
  problems: Problem[],
): ReadyAnswer => {
  if (answer.kind === 'page') return answer.words.trim() === '' ? { ...answer, words: unsaid[when] } : answer;
  const compiled = compileDestination(answer.to);
  if (compiled.ok) return { kind: 'address', to: compiled.value };
  for (const { message } of compiled.problems) problems.push({ path: `${path}.to`, message });
  return { kind: 'page', words: unsaid[when], askMail: false, consent: '' };
};

/** What has to be mended in what a domain's links fall back to before they open and after they closed. */
export const domainProblems = (domain: Pick<Domain, 'before' | 'after'>): Problem[] => {
  const problems: Problem[] = [];
  readyAnswer(domain.before, 'before', 'before', problems);
  readyAnswer(domain.after, 'after', 'after', problems);
  return problems;
};

/** A page's choices without what no page could use. */
const usableChoices = (choices: HopChoices, problems: Problem[]): HopChoices => {
  const scripts = choices.scripts.filter(isScriptAddress);
  if (scripts.length === choices.scripts.length) return choices;
  for (const [i, script] of choices.scripts.entries())
    if (!isScriptAddress(script))
      problems.push({
        path: `hop.scripts.${i}`,
        message: `${script} is no address of a script; it is left out.`,
      });
  return { ...choices, scripts };
};

/** The domain of a link, as far as it decides how the link hops. */
type HopDomain = Pick<Domain, 'zone' | 'before' | 'after'>;

/** Compiles a link for hopping, or says what has to be mended in it. */
export const prepareLink = (
  link: PreparedParts,
  choices: HopChoices,
  domain: HopDomain,
): Checked<HopLink> => {
  const { ready, problems } = prepareAnyway(link, choices, domain);
  // What is wrong with its domain's part, or with choices that were checked by themselves, is not mended here.
  const own = problems.filter(({ path }) => !path.startsWith('domain.') && !path.startsWith('hop.'));
  if (ready && own.length === 0) return { ok: true, value: ready };
  return { ok: false, problems: own.length > 0 ? own : problems };
};

/**
 * Compiles a link for hopping whatever is wrong with it: the default words in place of a bad address while it is closed,
 * a bad script left out, a bad branch as near as can be or without its visitors, who go to the link's own destination.
 * `ready` is undefined only where that one holds no address at all.
 */
export const prepareAnyway = (
  link: PreparedParts,
  choices: HopChoices,
  domain: HopDomain,
): { readonly ready: HopLink | undefined; readonly problems: readonly Problem[] } => {
  const { hours } = link;
  const problems: Problem[] = [];
  const own: Branch = {
    id: everyoneElse,
    name: '',
    when: {},
    destination: link.destination,
    weight: link.weight ?? 1,
  };
  const branches: ReadyBranch[] = [];
  const all = [...(link.branches ?? []), own];
  for (const [i, branch] of all.entries()) {
    const compiled = compileDestination(branch.destination, link.asText);
    const path = branch === own ? '' : `branches.${i}.`;
    if (!compiled.ok) problems.push(...compiled.problems.map((p) => ({ ...p, path: path + p.path })));
    const template = compiled.ok ? compiled.value : compileAnyway(branch.destination);
    if (template)
      branches.push({
        ...branch,
        test: testOf(branch.when, domain.zone),
        destination: template,
        group: all.findIndex((other) => sameConditions(other.when, branch.when)),
      });
  }
  const zone = hours?.zone ?? domain.zone;
  const opens = hours?.from === undefined ? undefined : momentOf(zone, hours.from);
  const closes = hours?.until === undefined ? undefined : momentOf(zone, hours.until);
  if (opens !== undefined && closes !== undefined && closes <= opens)
    problems.push({ path: 'hours.until', message: 'It closes before it opens. Give a later day or time.' });
  const answer = (when: 'before' | 'after'): ReadyAnswer => {
    const ofLink = hours?.[when];
    return readyAnswer(ofLink ?? domain[when], when, ofLink ? `hours.${when}` : `domain.${when}`, problems);
  };
  const before = answer('before');
  const after = answer('after');
  const usable = usableChoices(choices, problems);
  if (branches.at(-1)?.id !== everyoneElse) return { ready: undefined, problems };
  return {
    problems,
    ready: {
      id: link.id,
      branches,
      choices: usable,
      zone: domain.zone,
      opens,
      closes,
      before,
      after,
      gone: link.archived !== undefined && link.archived.to === undefined,
      asksReturning: branches.some((branch) => branch.when.visitor !== undefined),
    },
  };
};
