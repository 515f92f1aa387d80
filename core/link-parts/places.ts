import { element } from '#core/catalogue';
import type { Split } from './splitLink.ts';
import { splitLink } from './splitLink.ts';

/**
 * A part of a link that can have a role. Its name says where it stands:
 *
 * | name | the part |
 * | --- | --- |
 * | `sub1` | value of a query parameter |
 * | `sub1#2` | second piece of that value, where `-`, `_`, `|`, `.`, `,` or `;` part it |
 * | `//1` | first label of the host |
 * | `/2` | second segment of the path |
 * | `/2.3` | third piece of that segment |
 * | `/3+` | all of the link from the third segment on |
 * | `#sub1` | value of a pair behind # |
 * | `#/2` | second segment behind # |
 *
 * No query parameter can be taken for a place: none holds a `#`, and one that begins with `/` is never a part by name.
 */
export interface LinkPart {
  readonly name: string;
  /** Its raw bytes. */
  readonly value: string;
  /** Offset of the value in the link. */
  readonly at: number;
}

/** True for a part that has no name of its own in the query. */
export const isPlace = (name: string): boolean => /^[/#]/.test(name);

/** What parts a segment or a value into pieces, written plainly or percent-encoded. */
const mark = /[-_|.,;]|%7C/i;

const pieceOf = (part: LinkPart, piece: string | undefined, name: string): LinkPart | undefined => {
  if (piece === undefined) return { ...part, name };
  let at = part.at;
  let rest = part.value;
  for (let n = 1; ; n++) {
    const found = mark.exec(rest);
    const value = found ? rest.slice(0, found.index) : rest;
    if (n === Number(piece)) return { name, value, at };
    if (!found) return undefined;
    const past = found.index + found[0].length;
    at += past;
    rest = rest.slice(past);
  }
};

/** The pieces of a part, in their order. */
export const piecesOf = (part: LinkPart): LinkPart[] => {
  const separator = part.name.startsWith('/') ? '.' : '#';
  const pieces: LinkPart[] = [];
  for (let n = 1; ; n++) {
    const piece = pieceOf(part, String(n), `${part.name}${separator}${n}`);
    if (!piece) return pieces;
    pieces.push(piece);
  }
};

/** Offsets at which host, path, query and fragment of a link begin. */
const offsets = ({ scheme, authority, path, query }: Split) => {
  const authorityAt = scheme === '' ? 2 : scheme.length + 3;
  const pathAt = authority === '' ? (scheme === '' ? 0 : scheme.length + 1) : authorityAt + authority.length;
  const fragmentAt = pathAt + path.length + (query === undefined ? 0 : query.length + 1) + 1;
  return { hostAt: authorityAt + authority.lastIndexOf('@') + 1, pathAt, fragmentAt };
};

const host = ({ authority }: Split): string =>
  authority.slice(authority.lastIndexOf('@') + 1).replace(/:\d*$/, '');

/** Texts between the same mark, each with its offset. */
const between = (text: string, by: string, at: number): { text: string; at: number }[] => {
  let next = at;
  return text.split(by).map((part) => {
    const found = { text: part, at: next };
    next += part.length + by.length;
    return found;
  });
};

const hostLabels = (split: Split): LinkPart[] =>
  between(host(split), '.', offsets(split).hostAt).map(({ text, at }, i) => ({
    name: `//${i + 1}`,
    value: text,
    at,
  }));

const segments = (split: Split): LinkPart[] =>
  split.path.startsWith('/')
    ? between(split.path.slice(1), '/', offsets(split).pathAt + 1).map(({ text, at }, i) => ({
        name: `/${i + 1}`,
        value: text,
        at,
      }))
    : [];

const queryParts = (split: Split): LinkPart[] =>
  split.pairs
    .filter(({ name }) => name !== '' && !name.startsWith('/'))
    .map(({ name, value, valueAt }) => ({ name, value, at: valueAt }));

/** Pairs behind #, or its segments where it holds none. */
const fragmentParts = (split: Split): LinkPart[] => {
  if (split.fragment === undefined || split.fragment === '') return [];
  const lead = /^[!/?]*/.exec(split.fragment)?.[0].length ?? 0;
  const text = split.fragment.slice(lead);
  const at = offsets(split).fragmentAt + lead;
  if (text.includes('='))
    return between(text, '&', at).flatMap((pair) => {
      const equals = pair.text.indexOf('=');
      return equals <= 0
        ? []
        : [
            {
              name: `#${pair.text.slice(0, equals)}`,
              value: pair.text.slice(equals + 1),
              at: pair.at + equals + 1,
            },
          ];
    });
  return between(text, '/', at).map((segment, i) => ({
    name: `#/${i + 1}`,
    value: segment.text,
    at: segment.at,
  }));
};

/** The name of the part that is a whole address at the end of the path, such as `/3+`; undefined where there is none. */
const addressInPath = (split: Split): LinkPart | undefined => {
  const found = segments(split);
  const at = found.findIndex(
    ({ value }, i) =>
      /^https?:$/i.test(value) && found[i + 1]?.value === '' && (found[i + 2]?.value ?? '') !== '',
  );
  return found[at];
};

/**
 * Every part of a link that may have a role, in its order: host labels, path segments, query parameters, what stands behind #.
 * Where the path ends with a whole address, that address is one part, and what follows belongs to it.
 */
export const partsOf = (link: string): LinkPart[] => {
  const split = splitLink(link);
  const page = addressInPath(split);
  const path = segments(split);
  if (page)
    return [
      ...hostLabels(split),
      ...path.filter(({ at }) => at < page.at),
      { name: `${page.name}+`, value: link.slice(page.at), at: page.at },
    ];
  return [...hostLabels(split), ...path, ...queryParts(split), ...fragmentParts(split)];
};

/** The part of a link at a place; undefined where the link has none there. */
export const partAt = (link: string, name: string): LinkPart | undefined => {
  const split = splitLink(link);
  const byName = (parts: readonly LinkPart[], wanted: string) => parts.find((part) => part.name === wanted);
  if (name.startsWith('//')) return byName(hostLabels(split), name);
  const rest = /^(\/\d+)\+$/.exec(name);
  if (rest) {
    const from = byName(segments(split), element(rest[1]));
    return from && { name, value: link.slice(from.at), at: from.at };
  }
  const segment = /^(\/\d+)(?:\.(\d+))?$/.exec(name);
  if (segment) {
    const part = byName(segments(split), element(segment[1]));
    return part && pieceOf(part, segment[2], name);
  }
  const [, whole = '', piece] = /^(#?[^#]*)(?:#(\d+))?$/.exec(name) ?? [];
  const part = byName(whole.startsWith('#') ? fragmentParts(split) : queryParts(split), whole);
  return part && pieceOf(part, piece, name);
};

/**
 * A link with other values at some places; every other byte stays. Names at which the link has nothing are added to the query
 * where they are parameters, and left out where they are places.
 */
export const withParts = (link: string, values: Readonly<Record<string, string>>): string => {
  const found: (LinkPart & { next: string })[] = [];
  const missing: [string, string][] = [];
  for (const [name, next] of Object.entries(values)) {
    const part = partAt(link, name);
    if (part) found.push({ ...part, next });
    else if (!/^[/#]|#/.test(name)) missing.push([name, next]);
  }
  let result = link;
  for (const { at, value, next, name } of found.toSorted((a, b) => b.at - a.at)) {
    // A parameter without = gets one.
    const equals =
      !/^[/#]/.test(name) && !'=#'.includes(result[at - 1] ?? '') && !name.includes('#') ? '=' : '';
    result = result.slice(0, at) + equals + next + result.slice(at + value.length);
  }
  for (const [name, next] of missing) {
    const { query, fragment } = splitLink(result);
    const end = fragment === undefined ? result.length : result.length - fragment.length - 1;
    const before = query === undefined ? '?' : query === '' || query.endsWith('&') ? '' : '&';
    result = `${result.slice(0, end)}${before}${name}=${next}${result.slice(end)}`;
  }
  return result;
};

const ordinals = ['', '1st', '2nd', '3rd'];
const ordinal = (n: string): string => ordinals[Number(n)] ?? `${n}th`;

/** A part's name as a person reads it: a parameter's own name, or where the part stands. */
export const placeTitle = (name: string): string => {
  const label = /^\/\/(\d+)$/.exec(name);
  if (label) return `host, ${ordinal(element(label[1]))} word`;
  const rest = /^\/(\d+)\+$/.exec(name);
  if (rest) return `path, all from its ${ordinal(element(rest[1]))} part`;
  const segment = /^\/(\d+)(?:\.(\d+))?$/.exec(name);
  if (segment)
    return `path, ${ordinal(element(segment[1]))} part${segment[2] === undefined ? '' : `, ${ordinal(segment[2])} piece`}`;
  const behind = /^#\/(\d+)$/.exec(name);
  if (behind) return `behind #, ${ordinal(element(behind[1]))} part`;
  const [, whole = name, piece] = /^(#?[^#]*)(?:#(\d+))?$/.exec(name) ?? [];
  return `${whole.startsWith('#') ? `${whole.slice(1)} behind #` : whole}${piece === undefined ? '' : `, ${ordinal(piece)} piece`}`;
};
