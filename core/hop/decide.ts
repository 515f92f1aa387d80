import type { notRedirectedBranches } from './branchNames.ts';
import { everyoneElse } from './branchNames.ts';
import { describeConditions } from './conditions.ts';
import type { HopLink, ReadyBranch } from './prepare.ts';
import type { HopRequest } from './request.ts';

/** One branch that was looked at, and why it was taken or not. */
export interface Reason {
  readonly branch: string;
  readonly name: string;
  readonly taken: boolean;
  /** A plain sentence. */
  readonly because: string;
}

export interface Decision {
  readonly branch: string;
  /** True when the link is closed, or archived, and does not lead to its offer. */
  readonly notRedirected: boolean;
  readonly why: readonly Reason[];
}

const onlyBranch: Decision = {
  branch: everyoneElse,
  notRedirected: false,
  why: [
    {
      branch: everyoneElse,
      name: 'Everyone',
      taken: true,
      because: 'The link has one destination, for everyone.',
    },
  ],
};

/**
 * Where a visitor stands between 0 and 1 for a link: the same visitor at the same place each time, all visitors spread
 * evenly. FNV-1a over the key and the link's ID, with the finisher of MurmurHash3 (both in the public domain), since
 * FNV alone leaves the high bits of similar texts alike.
 */
export const placeOfVisitor = (visitor: string, link: string): number => {
  const text = `${visitor}|${link}`;
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return ((hash ^ (hash >>> 16)) >>> 0) / 2 ** 32;
};

const nameOf = (branch: ReadyBranch): string =>
  branch.name !== ''
    ? branch.name
    : describeConditions(branch.when) || (branch.id === everyoneElse ? 'Everyone else' : 'Everyone');

const share = (place: number, group: readonly ReadyBranch[]): ReadyBranch | undefined => {
  const whole = group.reduce((sum, branch) => sum + branch.weight, 0);
  let rest = place * whole;
  for (const branch of group) {
    rest -= branch.weight;
    if (rest < 0) return branch;
  }
  return group.findLast((branch) => branch.weight > 0) ?? group[0];
};

const notRedirectedAs = (branch: (typeof notRedirectedBranches)[number], because: string): Decision => ({
  branch,
  notRedirected: true,
  why: [{ branch, name: branch, taken: true, because }],
});

/**
 * Chooses the branch of a link for a request: the first whose conditions all hold, and among those with the very same
 * conditions by the visitor's place and the weights. The link's own destination serves when none fits.
 */
export const decide = (link: HopLink, request: HopRequest): Decision => {
  const { opens, closes, gone, branches } = link;
  if (gone) return notRedirectedAs('gone', 'The link was archived.');
  if (opens !== undefined && request.at < opens)
    return notRedirectedAs('before', 'The link is not open yet.');
  if (closes !== undefined && request.at >= closes) return notRedirectedAs('after', 'The link is closed.');
  if (branches.length === 1) return onlyBranch;

  const why: Reason[] = [];
  for (const [i, branch] of branches.entries()) {
    const failed = branch.test(request);
    if (failed !== undefined) {
      why.push({
        branch: branch.id,
        name: nameOf(branch),
        taken: false,
        because: `Not this one: ${failed}.`,
      });
      continue;
    }
    const group = branches.filter((other, at) => at >= i && other.group === branch.group);
    const place = placeOfVisitor(request.visitor, link.id);
    const taken = share(place, group) ?? branch;
    const whole = group.reduce((sum, other) => sum + other.weight, 0);
    for (const other of group)
      why.push({
        branch: other.id,
        name: nameOf(other),
        taken: other === taken,
        because:
          group.length === 1
            ? branch.id === everyoneElse
              ? 'No other branch fits.'
              : 'Everything it asks for holds.'
            : `${other === taken ? 'This visitor falls into its share' : 'Not its share'}: ${other.weight} of ${whole}.`,
      });
    return { branch: taken.id, notRedirected: false, why };
  }
  return onlyBranch;
};
