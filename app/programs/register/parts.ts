import type { Role } from '#core/catalogue';
import type { LinkParts } from '#core/link-parts';
import { compareSamples } from '#core/link-parts';

/** A part of pasted links, what it is for, and why. */
export interface SeenPart {
  readonly name: string;
  readonly role: Role;
  /** Nothing tells its role: somebody has to say it. */
  readonly open: boolean;
  readonly reason: string;
  readonly values: readonly string[];
}

/** More links side by side tell no more. */
const mostCompared = 30;

/**
 * The parts of links of one network: by its link format where there is one, else by comparison.
 *
 * @param said what a person said of them; counts where no format does
 */
export const seenParts = (links: readonly LinkParts[], said: ReadonlyMap<string, Role>): SeenPart[] => {
  const compared = links.slice(0, mostCompared);
  const [first] = compared;
  const isKnown = first?.network !== undefined || first?.known !== undefined;
  return compareSamples(compared.map(({ link }) => link)).map((found) => {
    const own = said.get(found.name);
    const { name, values } = found;
    if (own !== undefined && first?.network === undefined)
      return { name, role: own, open: false, reason: 'You said so.', values };
    // What the network's format says is known; one link alone cannot be compared.
    const pair =
      isKnown || links.length === 1
        ? compared.flatMap(({ pairs }) => pairs).find((p) => p.name === name)
        : undefined;
    const { role, open = false, reason } = pair ?? found;
    return { name, role, open, reason, values };
  });
};
