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
import { momentOf } from './clock.ts';
import type { Test } from './conditions.ts';
import { sameConditions, testOf } from './conditions.ts';
import { everyoneElse } from './decide.ts';
import type { Template } from './template.ts';
import { compileDestination } from './template.ts';

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
export interface HopParts {
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
  problems: Problem[],
): ReadyAnswer => {
  if (answer.kind === 'page') return answer.words.trim() === '' ? { ...answer, words: unsaid[when] } : answer;
  const compiled = compileDestination(answer.to);
  if (compiled.ok) return { kind: 'address', to: compiled.value };
  for (const { message } of compiled.problems) problems.push({ path: `hours.${when}.to`, message });
  return { kind: 'page', words: unsaid[when], askMail: false, consent: '' };
};

/** Compiles a link for hopping, or says what has to be mended. */
export const prepareLink = (
  link: HopParts,
  choices: HopChoices,
  domain: Pick<Domain, 'zone' | 'before' | 'after'>,
): Checked<HopLink> => {
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
    if (compiled.ok)
      branches.push({
        ...branch,
        test: testOf(branch.when, domain.zone),
        destination: compiled.value,
        group: all.findIndex((other) => sameConditions(other.when, branch.when)),
      });
    else problems.push(...compiled.problems.map((p) => ({ ...p, path: path + p.path })));
  }
  const zone = hours?.zone ?? domain.zone;
  const opens = hours?.from === undefined ? undefined : momentOf(zone, hours.from);
  const closes = hours?.until === undefined ? undefined : momentOf(zone, hours.until);
  if (opens !== undefined && closes !== undefined && closes <= opens)
    problems.push({ path: 'hours.until', message: 'It closes before it opens. Give a later day or time.' });
  const before = readyAnswer(hours?.before ?? domain.before, 'before', problems);
  const after = readyAnswer(hours?.after ?? domain.after, 'after', problems);
  if (problems.length > 0) return { ok: false, problems };
  return {
    ok: true,
    value: {
      id: link.id,
      branches,
      choices,
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
