import type { LinkFormat } from '#core/catalogue';

/** `*` as what varies within one part, `**` as any rest; everything else as it stands. */
const patternOf = (text: string, part: string): RegExp =>
  new RegExp(
    `^${text
      .split(/(\*+)/)
      .map((piece) =>
        piece.startsWith('**') ? '.*' : piece === '*' ? part : piece.replace(/[.+?^${}()|[\]\\]/g, '\\$&'),
      )
      .join('')}$`,
    's',
  );

interface Patterns {
  readonly hosts: readonly RegExp[];
  readonly path: RegExp;
}
/** A format is one object for as long as it is the same, so its patterns are made once. */
const made = new WeakMap<LinkFormat, Patterns>();

const patternsOf = (linkFormat: LinkFormat): Patterns => {
  const known = made.get(linkFormat);
  if (known) return known;
  const patterns = {
    hosts: linkFormat.hosts.map((host) => patternOf(host, '[^.]+')),
    // A star at the end stands for any rest, however many parts it has.
    path: patternOf(linkFormat.path.replace(/\*$/, '**'), '[^/]*'),
  };
  made.set(linkFormat, patterns);
  return patterns;
};

/** True where a link of this host and path is one of a format. */
export const fitsFormat = (linkFormat: LinkFormat, host: string, path: string): boolean => {
  const { hosts, path: form } = patternsOf(linkFormat);
  return hosts.some((pattern) => pattern.test(host)) && form.test(path);
};
