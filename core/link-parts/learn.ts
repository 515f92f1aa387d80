import type { LinkFormat, Link, Network, Role, Slot } from '#core/catalogue';
import { pageCodings } from '#core/catalogue';
import type { Compared } from './compare.ts';
import { compareSamples } from './compare.ts';
import { shopOf } from './deepLink.ts';
import { codingsOf, pageInside } from './pageCoding.ts';
import { isPlace, partAt, partsOf, withParts } from './places.ts';
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

/** Host and path of a format with `*` at a place that was a word of every link until now. */
const starredAt = ({ hosts, path }: LinkFormat, name: string): Partial<LinkFormat> => {
  if (name.startsWith('//'))
    return { hosts: hosts.map((host) => hostOf(withParts(`https://${host}/`, { [name]: '*' }))) };
  if (!/^\/\d+(?:\.\d+)?$/.test(name)) return {};
  return { path: splitLink(withParts(`https://h${path}`, { [name]: '*' })).path };
};

/** Teaches a network what one part of its links is for. */
export const learnRole = (network: Network, name: string, role: Role): Network => {
  const { parameters } = network.linkFormat;
  const known = parameters.some((parameter) => parameter.name === name);
  return withLinkFormat(
    network,
    known
      ? parameters.map((parameter) => (parameter.name === name ? { ...parameter, role } : parameter))
      : [...parameters, { name, role }],
    known ? {} : starredAt(network.linkFormat, name),
  );
};

/** A text with `*` in the place of some of its parts. */
const withStars = (link: string, names: readonly string[]): string =>
  withParts(link, Object.fromEntries(names.map((name) => [name, '*'])));

/**
 * The link format that sample links of an unknown network speak: host and path with `*` for what varies or has a role, and
 * every part with its role, in the order of the first link.
 */
export const linkFormatOf = (links: readonly string[], roles: ReadonlyMap<string, Role>): LinkFormat => {
  const compared = compareSamples(links);
  const parts = compared.filter(({ name }) => isPlace(name) || /^[^\s&=#?]{1,64}(?:#\d+)?$/.test(name));
  const roleOf = (part: Compared): Role => roles.get(part.name) ?? part.role;
  const isLiteral = (part: Compared): boolean => roleOf(part) === 'other' && part.values.length === 1;
  /** What is said by the pattern of host and path alone. */
  const isPattern = (part: Compared): boolean => /^\/(?!\d+\+)/.test(part.name) && isLiteral(part);
  const starred = parts.filter((part) => /^\/(?!\d+\+)/.test(part.name) && !isLiteral(part));
  const rest = parts.find(({ name }) => /^\/\d+\+$/.test(name));
  const shapes = links.map((link) => {
    const split = splitLink(
      withStars(
        link,
        starred.map(({ name }) => name),
      ),
    );
    const at = rest && partAt(link, rest.name)?.at;
    const own = link.slice(0, at ?? link.length);
    return {
      host: hostOf(`//${split.authority}`),
      path:
        at === undefined
          ? split.path
          : `${
              splitLink(
                withStars(
                  own,
                  starred.map(({ name }) => name),
                ),
              ).path
            }**`,
    };
  });
  // What is always the same is the network's only where links of several programs have it.
  const programs = parts.filter((part) => roleOf(part) === 'program');
  const shops = parts
    .filter((part) => roleOf(part) === 'page')
    .flatMap(({ values }) => values.map((value) => shopOf(hostOf(pageInside(value) ?? ''))));
  const isSeveral =
    programs.length === 0 ? new Set(shops).size > 1 : programs.some(({ values }) => values.length > 1);
  const paths = [...new Set(shapes.map(({ path }) => path))];
  return {
    version: 1,
    hosts: [...new Set(shapes.map(({ host }) => host))],
    path: paths.length === 1 ? (paths[0] ?? '/**') : '/**',
    parameters: parts
      .filter((part) => !isPattern(part))
      .map((part) => {
        const role = roleOf(part);
        const raw = links.flatMap((link) => partAt(link, part.name)?.value ?? []);
        const [value] = raw;
        const always = isSeveral && new Set(raw).size === 1 && raw.length === links.length;
        const codings = raw
          .map((each) => codingsOf(each, pageInside(each) ?? ''))
          .reduce((left, more) => left.filter((coding) => more.includes(coding)), [...pageCodings]);
        return {
          name: part.name,
          role,
          ...(always && value !== undefined && (role === 'other' || role === 'creative') && { value }),
          ...(role === 'page' && { codings }),
        };
      }),
    ...sampleOf(links),
  };
};

/** The last link with a page in it, else the last one, to write deep links after. */
const sampleOf = (links: readonly string[]): Pick<LinkFormat, 'sample'> => {
  const sample =
    links.findLast((link) => partsOf(link).some(({ value }) => pageInside(value) !== undefined)) ??
    links.at(-1);
  return sample === undefined || sample.length > 4000 ? {} : { sample };
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
