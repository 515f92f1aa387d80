import * as v from 'valibot';
import { id, localDay, named, text } from './fields.ts';
import { sourceName } from './products.ts';

/** Stands between the promotions of a visit that belongs to several: it counts once, in a row of its own. */
export const promotionSeparator = ' ';

/** What a promotion takes: visits of sources by the beginning of their name or by name, by a link, or from a page. */
const taken = v.variant('kind', [
  v.strictObject({
    kind: v.literal('sources'),
    begins: v.pipe(sourceName, v.minLength(1, 'Say with what the sources begin.')),
  }),
  v.strictObject({
    kind: v.literal('source'),
    source: v.pipe(sourceName, v.minLength(1, 'A source has a name in addresses.')),
  }),
  v.strictObject({ kind: v.literal('link'), link: id('lnk') }),
  /** The page's address without what stands after `?` and `#`. */
  v.strictObject({
    kind: v.literal('page'),
    page: v.pipe(
      text(2000),
      v.regex(/^https?:\/\/[^/?#\s]\S*$/i, 'A page is an address that begins with http:// or https://.'),
    ),
  }),
]);

/** Links, sources and pages of one effort, seen together with what they cost and brought on its days. */
export const promotion = v.pipe(
  v.strictObject({
    id: id('prm'),
    name: named(80),
    takes: v.pipe(
      v.array(taken),
      v.minLength(1, 'Say what belongs to it: sources, links or pages.'),
      v.maxLength(200, 'A promotion takes at most 200 things; a beginning takes many sources at once.'),
    ),
    /** First and last day in the person's own zone; without a last one it goes on. */
    from: localDay,
    until: v.exactOptional(localDay),
    note: text(500),
  }),
  v.forward(
    v.check(
      ({ from, until }) => until === undefined || from <= until,
      'Its last day lies before its first. Change one of them.',
    ),
    ['until'],
  ),
);

export type Promotion = v.InferOutput<typeof promotion>;
