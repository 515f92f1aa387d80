import type { Checked, Problem } from '#core/catalogue';
import { element, withAsciiHost } from '#core/catalogue';

/** The tokens a destination may hold, filled at each click. */
export const tokenNames = ['click', 'source', 'link', 'country', 'device', 'day'] as const;
export type TokenName = (typeof tokenNames)[number];

/** A template ready to be filled: `texts[0] + value(tokens[0]) + texts[1] + …`. */
export interface Template<Name extends string = TokenName> {
  readonly texts: readonly string[];
  readonly tokens: readonly Name[];
}

/** `{{…}}` counts as one piece, so that a network's own macro is not torn. */
const braces = /\{\{[^{}]*\}\}|\{[^{}]*\}/g;

/** Percent-encodes what RFC 6570 level 1 encodes: everything but the unreserved characters of RFC 3986. */
export const encodeValue = (value: string): string =>
  /^[A-Za-z0-9\-._~]*$/.test(value)
    ? value
    : encodeURIComponent(value.toWellFormed()).replace(
        /[!'()*]/g,
        (letter) => `%${letter.charCodeAt(0).toString(16).toUpperCase()}`,
      );

/**
 * Compiles a template of RFC 6570 level 1. Whatever is not one of `names` in braces stays byte for byte;
 * non-ASCII text becomes percent-encoded UTF-8, as RFC 3986 asks of an address on the wire.
 *
 * @param asText pieces in braces that are to be sent as they stand
 */
export const compile = <Name extends string>(
  template: string,
  names: readonly Name[],
  asText: readonly string[] = [],
): Checked<Template<Name>> => {
  const texts: string[] = [];
  const tokens: Name[] = [];
  const problems: Problem[] = [];
  let from = 0;
  let text = '';
  for (const match of template.matchAll(braces)) {
    const piece = match[0];
    text += template.slice(from, match.index);
    from = match.index + piece.length;
    const name = names.find((known) => piece === `{${known}}`);
    if (asText.includes(piece)) text += piece;
    else if (name !== undefined) {
      texts.push(text);
      tokens.push(name);
      text = '';
    } else
      problems.push({
        path: 'destination',
        message: `${piece} is no token of ours. Use one of ${names.map((n) => `{${n}}`).join(' ')}, or mark it as text to send it as it stands.`,
      });
  }
  texts.push(text + template.slice(from));
  if (problems.length > 0) return { ok: false, problems };
  return { ok: true, value: { texts: texts.map(toAscii), tokens } };
};

const toAscii = (text: string): string =>
  text.replace(/[^\x00-\x7f]+/g, (run) => encodeURIComponent(run.toWellFormed()));

/** Fills a template with values that are percent-encoded already, or need it not. */
export const fill = <Name extends string>(
  template: Template<Name>,
  encoded: (name: Name) => string,
): string => {
  let result = element(template.texts[0]);
  for (let i = 0; i < template.tokens.length; i++) {
    const name = template.tokens[i];
    if (name !== undefined) result += encoded(name) + element(template.texts[i + 1]);
  }
  return result;
};

/** Fills a template; each value is percent-encoded once. A value that is missing leaves nothing. */
export const expand = <Name extends string>(
  template: Template<Name>,
  value: (name: Name) => string | undefined,
): string => fill(template, (name) => encodeValue(value(name) ?? ''));

/**
 * Longest `Location` that is sent, in bytes: proxies and browsers commonly take no more in one header (common practice;
 * RFC 9110 §4.1 asks for 8,000 of a URI at least).
 */
export const longestLocation = 8192;

/** Most bytes each token becomes; a country is two letters, percent-encoded where a proxy's header says something odd. */
const longestValue: Readonly<Record<TokenName, number>> = {
  click: 26,
  source: 64,
  link: 44,
  country: 12,
  device: 7,
  day: 10,
};

/** Most bytes an address made of a template can have. */
const longestOf = ({ texts, tokens }: Template): number =>
  texts.reduce((sum, text) => sum + text.length, 0) +
  tokens.reduce((sum, token) => sum + longestValue[token], 0);

/** Compiles a link's destination, or says what has to be mended in it. */
export const compileDestination = (given: string, asText: readonly string[] = []): Checked<Template> => {
  const destination = withAsciiHost(given);
  const problem = (message: string): Checked<Template> => ({
    ok: false,
    problems: [{ path: 'destination', message }],
  });
  if (!/^https?:\/\/[^/?#]/i.test(destination))
    return problem('A destination begins with http:// or https:// and a host.');
  if (/[\s\x00-\x1f\x7f\\]/.test(destination))
    return problem('The destination holds a space, a line break or a backslash. Write them percent-encoded.');
  const authority = /^https?:\/\/([^/?#]*)/i.exec(destination)?.[1] ?? '';
  if (/[{}]/.test(authority))
    return problem('A token cannot stand in the host. Tokens go after the first / or ?.');
  if (authority.includes('@'))
    return problem('The destination holds a user name before its host. Take it out.');
  if (!URL.canParse(destination)) return problem('The destination’s host or port cannot be read. Check it.');
  if (/%00/.test(destination))
    return problem('The destination holds %00, which servers refuse. Take it out.');
  const compiled = compile(destination, tokenNames, asText);
  if (compiled.ok && longestOf(compiled.value) > longestLocation)
    return problem(
      `The destination is longer than 8 KB on the wire, which servers and browsers refuse. Shorten it by ${longestOf(compiled.value) - longestLocation} characters.`,
    );
  return compiled;
};

/**
 * The nearest thing to a destination that was kept and cannot be compiled (by a version that checked less): its braces
 * as they stand, else as a browser would read it, without a user name. Undefined where there is no address in it.
 */
export const compileAnyway = (destination: string): Template | undefined => {
  const known = new Set<string>(tokenNames.map((name) => `{${name}}`));
  const asText = [...destination.matchAll(braces)]
    .map(([piece]) => piece)
    .filter((piece) => !known.has(piece));
  const whole = compileDestination(destination, asText);
  if (whole.ok) return whole.value;
  if (!/^https?:\/\//i.test(destination) || !URL.canParse(destination)) return undefined;
  const url = new URL(destination);
  url.username = '';
  url.password = '';
  return url.href.length <= longestLocation ? { texts: [url.href], tokens: [] } : undefined;
};
