import type { LinkFormat, Link, Network, Role, Slot } from '#core/catalogue';
import type { LinkParts } from './read.ts';
import { readLink } from './read.ts';
import { hostOf, splitLink } from './splitLink.ts';

const mostEarlier = 20;

/** A network with another link format: its version rises, and the one before is kept. */
export const withLinkFormat = (
  network: Network,
  parameters: LinkFormat['parameters'],
  more: Partial<LinkFormat> = {},
): Network => {
  const { linkFormat, earlierLinkFormats = [] } = network;
  const next = { ...linkFormat, ...more, parameters };
  if (JSON.stringify(next) === JSON.stringify(linkFormat)) return network;
  const slotNames = new Set(parameters.filter((p) => p.role === 'slot').map((p) => p.name));
  const known = new Set(network.slots.map((slot) => slot.name));
  return {
    ...network,
    linkFormat: { ...next, version: linkFormat.version + 1 },
    earlierLinkFormats: [linkFormat, ...earlierLinkFormats].slice(0, mostEarlier),
    slots: [
      ...network.slots.filter((slot) => slotNames.has(slot.name)),
      ...[...slotNames].filter((name) => !known.has(name)).map((name) => newSlot(name, network.slots)),
    ],
  };
};

/** A slot whose limits nobody told: the first one of a network carries the click ID. */
const newSlot = (name: string, others: readonly Slot[]): Slot => ({
  name,
  length: 100,
  fill: others.some((slot) => slot.fill === '{click}') ? '' : '{click}',
  allowed: 'any',
  merchant: false,
});

/** Teaches a network what one parameter is for. */
export const learnRole = (network: Network, name: string, role: Role): Network => {
  const { parameters } = network.linkFormat;
  const known = parameters.some((parameter) => parameter.name === name);
  return withLinkFormat(
    network,
    known
      ? parameters.map((parameter) => (parameter.name === name ? { ...parameter, role } : parameter))
      : [...parameters, { name, role }],
  );
};

/**
 * The link format that sample links of an unknown network speak: their host, the path they share, and their parameters in
 * the order of the first link.
 */
export const linkFormatOf = (links: readonly string[], roles: ReadonlyMap<string, Role>): LinkFormat => {
  const splits = links.map(splitLink);
  const paths = [...new Set(splits.map((split) => split.path))];
  const names = [...new Set(splits.flatMap((split) => split.pairs.map((pair) => pair.name)))].filter(
    (name) => name !== '',
  );
  return {
    version: 1,
    hosts: [...new Set(links.map(hostOf))],
    path: paths.length === 1 ? (paths[0] ?? '/*') : '/*',
    parameters: names.flatMap((name) => {
      const role = roles.get(name) ?? 'other';
      return /^[^\s&=#?]{1,64}$/.test(name) ? [{ name, role }] : [];
    }),
  };
};

/** The slots a link format tells of, the first one for the click ID, one named like a source for the source. */
export const slotsOf = (linkFormat: LinkFormat): Slot[] => {
  const slots: Slot[] = [];
  for (const { name, role } of linkFormat.parameters)
    if (role === 'slot')
      slots.push(slots.length === 1 ? { ...newSlot(name, slots), fill: '{source}' } : newSlot(name, slots));
  return slots;
};

const shape = (linkParts: LinkParts): string =>
  JSON.stringify([linkParts.network?.id, linkParts.pairs.map((pair) => [pair.name, pair.role])]);

/** The links that a changed network reads otherwise than before. */
export const touchedLinks = (before: Network, after: Network, links: readonly Link[]): Link[] =>
  links.filter(
    ({ destination }) => shape(readLink(destination, [before])) !== shape(readLink(destination, [after])),
  );
