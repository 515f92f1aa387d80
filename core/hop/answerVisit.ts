import type { Domain, Link, Program, Restriction } from '#core/catalogue';
import { allowedHop, hopOf, newDomain, restrictionsOf } from '#core/catalogue';
import type { Decision } from './decide.ts';
import { decide } from './decide.ts';
import type { HopLink, PreparedParts } from './prepare.ts';
import { prepareAnyway } from './prepare.ts';
import type { HopRequest } from './request.ts';
import type { HopAddress, HopResponse } from './respond.ts';
import { respond } from './respond.ts';

/**
 * The link that answers for one: itself, or the one it hands its visitors to since it was archived, however many stand
 * between. Undefined where nothing answers for it any more: it was archived for good, the other link is gone, or they
 * hand on to each other.
 *
 * @param archivedOf that a link is archived, and as which other one it answers
 */
export const answeringLink = <L extends { readonly id: string }>(
  link: L,
  archivedOf: (link: L) => { readonly to?: string | undefined } | undefined,
  linkOf: (id: string) => L | undefined,
): L | undefined => {
  const seen = new Set<string>();
  let at: L | undefined = link;
  while (at) {
    const archived = archivedOf(at);
    if (!archived) return at;
    if (seen.has(at.id) || archived.to === undefined) return undefined;
    seen.add(at.id);
    at = linkOf(archived.to);
  }
  return undefined;
};

/** What a visitor is told of an archived link for which no other answers. */
export const goneDecision: Decision = {
  branch: 'gone',
  notRedirected: true,
  why: [{ branch: 'gone', name: 'gone', taken: true, because: 'The link was archived.' }],
};

/** A link made ready to hop as it is answered: by its own choices over its domain's, as far as its merchant allows. */
export const readyToHop = (
  link: PreparedParts & Pick<Link, 'hop'>,
  domain: Domain,
  program: Pick<Program, 'name' | 'rules'> | undefined,
): ReturnType<typeof prepareAnyway> => {
  const restrictions: readonly Restriction[] = restrictionsOf(program, domain);
  const choices = allowedHop(hopOf(link, domain), restrictions);
  try {
    return prepareAnyway(link, choices, domain);
  } catch (error) {
    // A part of it cannot even be looked at: then its destination alone.
    const { id, destination, asText } = link;
    const plain = newDomain('', '', 'UTC');
    const { ready, problems } = prepareAnyway({ id, destination, asText }, plain.hop, plain);
    return { ready, problems: [...problems, { path: '', message: `It cannot be read: ${String(error)}` }] };
  }
};

/** What an answer rests on. */
export interface HopCatalogue {
  readonly link: (id: string) => Link | undefined;
  readonly domain: (id: string | undefined) => Domain | undefined;
  readonly program: (id: string | undefined) => Pick<Program, 'name' | 'rules'> | undefined;
}

/** What a visitor of a short link gets, and of which link that is. */
export interface VisitAnswer {
  readonly link: Link;
  readonly ready: HopLink;
  readonly decision: Decision;
  readonly response: HopResponse;
}

/**
 * What a visitor of a link gets, as the server answers: of the link itself, or of the one it answers as since it was archived.
 * Undefined where it holds no address to lead to.
 *
 * @param asked the link whose address was asked for
 */
export const answerVisit = (
  asked: Link,
  catalogue: HopCatalogue,
  visit: HopRequest,
  clickId: string,
  place: HopAddress,
): VisitAnswer | undefined => {
  const target = answeringLink(asked, ({ archived }) => archived, catalogue.link);
  const link = target ?? asked;
  const domain = catalogue.domain(link.domain);
  const ready = domain && readyToHop(link, domain, catalogue.program(link.program)).ready;
  if (!ready) return undefined;
  const decision = target ? decide(ready, visit) : goneDecision;
  return { link, ready, decision, response: respond(ready, decision, visit, clickId, place) };
};
