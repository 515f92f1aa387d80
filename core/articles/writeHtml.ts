import type { PlacedLink } from '#core/placing';
import { linkAround, relOf } from '#core/placing';
import { escapeHtml } from '#core/hop';
import type { Tag } from './parts.ts';
import type { Edit } from './ranges.ts';

/** The values of a `rel` attribute; they are compared without case (HTML standard, §4.6.7). */
export const relValues = (rel: string | undefined): string[] =>
  (rel ?? '')
    .toLowerCase()
    .split(/[\t\n\f\r ]+/)
    .filter((value) => value !== '');

/** A `rel` that has what it had and what it has to have. */
export const mergedRel = (rel: string | undefined, needed: readonly string[]): string => {
  const there = relValues(rel);
  const kept = (rel ?? '').split(/[\t\n\f\r ]+/).filter((value) => value !== '');
  return [...kept, ...needed.filter((value) => !there.includes(value))].join(' ');
};

/** The quotes an attribute has; double ones where it has none. */
const quoteOf = (raw: string): string => (/=\s*'/.test(raw) ? "'" : '"');

/**
 * Edits that give a tag some attributes; where they have those values already, nothing is changed.
 *
 * @param source the text the tag stands in
 */
export const attributeEdits = (
  source: string,
  tag: Tag,
  wanted: Readonly<Record<string, string>>,
): Edit[] => {
  const edits: Edit[] = [];
  const added: string[] = [];
  for (const [name, value] of Object.entries(wanted)) {
    const there = tag.attributes.get(name);
    if (!there) {
      added.push(` ${name}="${escapeHtml(value)}"`);
      continue;
    }
    if (there.value === value) continue;
    const raw = source.slice(there.start, there.end);
    const quote = quoteOf(raw);
    const written = /^[^\s=]+/.exec(raw)?.[0] ?? name;
    edits.push({
      start: there.start,
      end: there.end,
      text: `${written}=${quote}${escapeHtml(value)}${quote}`,
    });
  }
  if (added.length > 0) {
    // Behind the last attribute, so that a slash before the tag's end stays where it is.
    const last = Math.max(tag.start, ...[...tag.attributes.values()].map(({ end }) => end));
    const name = /^<[^\s/>]+/.exec(source.slice(tag.start, tag.end))?.[0].length ?? 1;
    const at = last === tag.start ? tag.start + name : last;
    const isTight = /[^\s/>]/.test(source.charAt(at));
    edits.push({ start: at, end: at, text: added.join('') + (isTight ? ' ' : ''), order: 'closes' });
  }
  return edits;
};

/** What a link's tag needs to be placed as it should: its address only where that is to be another. */
export const wantedOf = (tag: Tag, placed: PlacedLink, isNew: boolean): Record<string, string> => {
  const { attributes } = tag;
  const target = attributes.get('target')?.value.toLowerCase();
  const isBlank = target === undefined ? placed.marks.newTab : target === '_blank';
  const needed = [
    ...relOf({ ...placed.marks, newTab: false }).split(' '),
    ...(isBlank ? ['noopener'] : []),
  ].filter((value) => value !== '');
  const there = relValues(attributes.get('rel')?.value);
  // `noreferrer` would hide the page from our own hop; it is kept, as somebody wrote it, and means noopener too.
  const lacking = needed.filter(
    (value) => !there.includes(value) && !(value === 'noopener' && there.includes('noreferrer')),
  );
  return {
    ...(isNew && { href: placed.address }),
    ...(lacking.length > 0 && { rel: mergedRel(attributes.get('rel')?.value, lacking) }),
    ...(placed.marks.newTab && !attributes.has('target') && { target: '_blank' }),
    ...(placed.referrer === 'page' &&
      !attributes.has('referrerpolicy') && { referrerpolicy: 'no-referrer-when-downgrade' }),
    ...(placed.counted && { 'data-fernhop': placed.counted.link }),
    ...(placed.counted && placed.counted.slot !== '' && { 'data-click': placed.counted.slot }),
  };
};

/** What a wanted attribute is called where it is missing. */
const lacks: Readonly<Record<string, string>> = {
  target: 'opens in the same tab',
  referrerpolicy: 'hides its page from the hop',
  'data-fernhop': 'is not counted',
};
/** What a link lacks, in words; empty where it lacks nothing. */
export const lackWords = (tag: Tag, wanted: Readonly<Record<string, string>>): string => {
  const there = relValues(tag.attributes.get('rel')?.value);
  const rel = relValues(wanted['rel']).filter((value) => !there.includes(value));
  return [
    ...(rel.length > 0 ? [`no ${rel.join(', ')}`] : []),
    ...Object.keys(wanted).flatMap((name) => lacks[name] ?? []),
  ].join(', ');
};

/** A link's start tag with its marks. */
export const startTag = (placed: PlacedLink): string => linkAround('', placed).slice(0, -'</a>'.length);
