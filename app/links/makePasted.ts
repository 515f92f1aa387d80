import type { Account, Domain, Network } from '#core/catalogue';
import type { PasteEntry } from '#core/link-parts';
import { readLink } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import type { Change, NewLink } from './makeLink.ts';
import { newLinkRecords, pageLink } from './makeLink.ts';
import { takenPaths } from './taken.ts';

/** True for what a link can be made of. */
export const isMakeable = ({ kind }: PasteEntry): boolean =>
  kind === 'tracking' || kind === 'address' || kind === 'page';

/** The lines of a paste of which no link is made, as they stood there. */
export const restOf = (entries: readonly PasteEntry[]): string => {
  const rest = new Map(
    entries.flatMap((entry) => (isMakeable(entry) ? [] : [[entry.unit.from, entry.unit.text] as const])),
  );
  return [...rest.values()].join('\n');
};

/**
 * The records that a paste becomes.
 *
 * @param chosen of a page that several programs take, which of its choices
 * @returns how many links, and what is to be saved as one step
 */
export const pastedRecords = (
  entries: readonly PasteEntry[],
  chosen: (entry: PasteEntry) => number,
  domain: Domain,
): { count: number; changes: Change[] } => {
  const catalogue = useCatalogue();
  const taken = takenPaths(catalogue.links, domain);
  const networks: Network[] = [...catalogue.networks];
  /** Networks whose first account tag is taken as one's own: once, not by each of its links. */
  const tagged = new Set<string>();
  const changes: Change[] = [];
  let count = 0;
  for (const entry of entries) {
    const from = ((): NewLink | undefined => {
      const { title } = entry;
      if (entry.kind === 'page') {
        const choice = entry.choices[chosen(entry)];
        const linkParts = choice && pageLink(choice);
        return linkParts && { linkParts, title };
      }
      if (entry.kind !== 'tracking' && entry.kind !== 'address') return undefined;
      // A network that ships is joined once, by the first of its links; the others are read again against it.
      const { linkParts, snippet } = entry;
      return {
        linkParts: linkParts.known ? readLink(linkParts.link, networks, catalogue.programs) : linkParts,
        snippet,
        title,
      };
    })();
    if (!from) continue;
    count += 1;
    for (const change of newLinkRecords(from, domain, taken).changes) {
      if (change.kind === 'network') networks.push(change.value as Network); // a change of a network holds one
      if (change.kind === 'account') {
        const { network } = change.value as Account; // a change of an account holds one
        if (tagged.has(network)) continue;
        tagged.add(network);
      }
      changes.push(change);
    }
  }
  return { count, changes };
};
