import type { PostbackField, Status } from '#core/catalogue';
import { isUlid } from '#core/catalogue';

import { decodeQueryText } from '#core/link-parts';
import { isPlaceholder } from './placeholder.ts';

/** One pair of an example, and what it seems to be. */
export interface LearnedPair {
  /** Name of the parameter; empty for a placeholder of a help text, which stands under no name. */
  readonly name: string;
  readonly value: string;
  readonly field: PostbackField | undefined;
  /** The value is a placeholder: the example is an address to be set, not a postback that came. */
  readonly placeholder: boolean;
}

/** Names under which networks send a value (*common practice*), in the order in which they are tried. */
const names: readonly (readonly [PostbackField, RegExp])[] = [
  [
    'click',
    /^(?:click|sub|aff|s)[_-]?(?:id|ref|sub)?\d?$|click[_-]?id|sub[_-]?id|^(?:ref|note|tag|k)\d?$|tracking/i,
  ],
  ['txn', /^(?:txn|tid|oid)$|transaction|order|^lead(?:[_-]?id)?$|conversion[_-]?id|^id$|reference/i],
  ['amount', /amount|payout|commission|reward|earning|revenue|^sum$|^price$/i],
  ['currency', /^cur(?:r|rency)?(?:[_-]?code)?$/i],
  ['status', /^stat(?:us|e)$|^result$|approved/i],
  ['at', /^at$|time|date|when|^ts$/i],
  ['event', /event|goal|action|^type$|^kind$|^what$/i],
];

/** Words with which help texts explain a placeholder (common practice). */
const about: readonly (readonly [PostbackField, RegExp])[] = [
  ['click', /click.?id|sub.?id|your (?:own )?(?:tracking )?id/i],
  ['txn', /(?:order|transaction|conversion|lead).{0,12}(?:id|number|reference)|unique id/i],
  ['amount', /payout|commission|what you earn|earnings?|reward/i],
  ['currency', /currency/i],
  ['status', /\bstat(?:us|e)\b/i],
  ['at', /\b(?:time|date)\b|timestamp/i],
  ['event', /\b(?:event|goal|action)\b/i],
];

/** What a value shows itself to be, whatever its name. */
const fieldOfValue = (value: string): PostbackField | undefined => {
  if (isUlid(value)) return 'click';
  if (/^(?:[A-Z]{3})$/.test(value)) return 'currency';
  if (/^(?:pending|approved|reversed|paid|rejected|declined|confirmed)$/i.test(value)) return 'status';
  if (/^(?:sale|lead|trial|install|signup|opt-?in)$/i.test(value)) return 'event';
  if (/^-?\d+[.,]\d\d$/.test(value)) return 'amount';
  if (/^\d{4}-\d\d-\d\d[T ]\d\d:\d\d/.test(value) || /^1\d{9}(?:\d{3})?$/.test(value)) return 'at';
  return undefined;
};

interface Pair {
  readonly name: string;
  readonly value: string;
  /** Words that stand with it in a help text. */
  readonly about: string;
}

/** Placeholders within words, in the styles of the trade (common practice). */
const inText = /\$?\{\{?[\w.:-]+\}?\}|\[\[?[\w.:-]+\]?\]|%[a-z_][\w.-]*%|#[a-z_][\w.-]*#|<[a-z_][\w.-]*>/gi;

const queryPairs = (query: string): Pair[] =>
  query
    .split('&')
    .filter((pair) => pair.includes('='))
    .map((pair) => {
      const mark = pair.indexOf('=');
      const [name, value] = [pair.slice(0, mark), pair.slice(mark + 1)];
      return { name: decodeQueryText(name), value: decodeQueryText(value), about: '' };
    });

/** An address or body on a line of its own, or within words: its pairs. */
const pairsOfLine = (line: string): Pair[] => {
  const address = line
    .split(/\s+/)
    .find((word) => /^[^\s=]*[?&]?[\w.[\]-]+=\S*$/.test(word) && /[?&]/.test(word));
  if (address === undefined) return [];
  return queryPairs(
    address.slice(address.indexOf('?') + 1).replace(/#.*$/, (end) => (/#\w[\w.-]*#/.test(end) ? end : '')),
  );
};

/** The placeholders a line of a help text or of a table speaks of, with the words beside each. */
const placeholdersOfLine = (line: string): Pair[] => {
  const found = line.match(inText) ?? [];
  // The words of a line about several say nothing of each.
  const about = found.length === 1 ? line.replace(inText, ' ') : '';
  return found.map((value) => ({ name: '', value, about }));
};

const pairsIn = (example: string): Pair[] => {
  const text = example.trim();
  if (text.startsWith('{') && text.endsWith('}') && text.includes(':')) {
    try {
      const body: unknown = JSON.parse(text);
      if (typeof body === 'object' && body !== null)
        return Object.entries(body).map(([name, value]) => ({ name, value: String(value), about: '' }));
    } catch {
      return [];
    }
  }
  const lines = text.split(/\r?\n/);
  if (lines.length === 1 && !/\s/.test(text) && text.includes('='))
    return queryPairs(
      text.slice(text.indexOf('?') + 1).replace(/#.*$/, (end) => (/^#\w+#/.test(end) ? end : '')),
    );
  const pairs = lines.flatMap((line) => {
    const inAddress = pairsOfLine(line);
    return inAddress.length > 0 ? inAddress : placeholdersOfLine(line);
  });
  // What an address shows with its name needs no telling again.
  return pairs.filter(
    ({ name, value }, i) => name !== '' || pairs.findIndex((other) => other.value === value) === i,
  );
};

/**
 * Reads an example of a postback, an address with placeholders as networks document it or one that came, and says what
 * each parameter seems to be: first by a value that shows it, then by its name. A table of placeholders or a help text is read
 * too, by the placeholders' names and the words beside them. Each field is given once.
 *
 * @param clickSlot the sub-ID slot that carries the click ID: a placeholder named like it is the click's
 */
export const learnPostback = (example: string, clickSlot?: string): LearnedPair[] => {
  const pairs = pairsIn(example).map((pair) => ({ ...pair, placeholder: isPlaceholder(pair.value) }));
  const fields = new Map<number, PostbackField>();
  const taken = new Set<PostbackField>();
  const give = (place: number, field: PostbackField | undefined) => {
    if (field === undefined || taken.has(field) || fields.has(place)) return;
    fields.set(place, field);
    taken.add(field);
  };
  const bare = (value: string) => value.replace(/[^\w-]/g, '');
  if (clickSlot !== undefined)
    for (const [i, { value, placeholder: unfilled }] of pairs.entries())
      if (unfilled && bare(value).toLowerCase() === clickSlot.toLowerCase()) give(i, 'click');
  for (const [i, pair] of pairs.entries()) if (!pair.placeholder) give(i, fieldOfValue(pair.value));
  for (const [field, form] of names)
    for (const [i, { name, value, placeholder: unfilled }] of pairs.entries())
      if (form.test(name) || (unfilled && form.test(bare(value)))) give(i, field);
  // The words beside a placeholder count last: they speak of much.
  for (const [field, form] of about)
    for (const [i, pair] of pairs.entries()) if (form.test(pair.about)) give(i, field);
  return pairs.map(({ about: _, ...pair }, i) => ({ ...pair, field: fields.get(i) }));
};

/** What a network's word for a state most likely means (*common practice*); undefined where that cannot be told. */
export const statusMeant = (word: string): Status | undefined => {
  if (/reject|declin|cancel|void|reverse|refund|charge.?back|invalid/i.test(word)) return 'reversed';
  if (/paid|settled|payout/i.test(word)) return 'paid';
  if (/approv|confirm|accept|valid|^ok$|lock/i.test(word)) return 'approved';
  if (/pend|open|hold|new|wait|review/i.test(word)) return 'pending';
  return undefined;
};
