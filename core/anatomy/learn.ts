import type { Grammar, Link, Network, Role, Slot } from '#core/catalogue';
import type { Anatomy } from './read.ts';
import { readLink } from './read.ts';
import { hostOf, splitLink } from './split.ts';

const mostEarlier = 20;

/** A network with another grammar: its version rises, and the one before is kept. */
export const withGrammar = (
  network: Network,
  parameters: Grammar['parameters'],
  more: Partial<Grammar> = {},
): Network => {
  const { grammar, earlier = [] } = network;
  const next = { ...grammar, ...more, parameters };
  if (JSON.stringify(next) === JSON.stringify(grammar)) return network;
  const slotNames = new Set(parameters.filter((p) => p.role === 'slot').map((p) => p.name));
  const known = new Set(network.slots.map((slot) => slot.name));
  return {
    ...network,
    grammar: { ...next, version: grammar.version + 1 },
    earlier: [grammar, ...earlier].slice(0, mostEarlier),
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
  const { parameters } = network.grammar;
  const known = parameters.some((parameter) => parameter.name === name);
  return withGrammar(
    network,
    known
      ? parameters.map((parameter) => (parameter.name === name ? { ...parameter, role } : parameter))
      : [...parameters, { name, role }],
  );
};

/**
 * The grammar that sample links of an unknown network speak: their host, the path they share, and their parameters in
 * the order of the first link.
 */
export const grammarOf = (links: readonly string[], roles: ReadonlyMap<string, Role>): Grammar => {
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

/** The slots a grammar tells of, the first one for the click ID, one named like a source for the source. */
export const slotsOf = (grammar: Grammar): Slot[] => {
  const slots: Slot[] = [];
  for (const { name, role } of grammar.parameters)
    if (role === 'slot')
      slots.push(slots.length === 1 ? { ...newSlot(name, slots), fill: '{source}' } : newSlot(name, slots));
  return slots;
};

const shape = (anatomy: Anatomy): string =>
  JSON.stringify([anatomy.network?.id, anatomy.pairs.map((pair) => [pair.name, pair.role])]);

/** The links that a changed network reads otherwise than before. */
export const touchedLinks = (before: Network, after: Network, links: readonly Link[]): Link[] =>
  links.filter(
    ({ destination }) => shape(readLink(destination, [before])) !== shape(readLink(destination, [after])),
  );
