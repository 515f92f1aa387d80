import type { PostbackField, Status } from '#core/catalogue';
import { isUlid } from '#core/catalogue';

import { decodeQueryText } from '#core/link-parts';
import { isPlaceholder } from './placeholder.ts';

/** One pair of an example, and what it seems to be. */
export interface LearnedPair {
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

const pairsIn = (example: string): { name: string; value: string }[] => {
  const text = example.trim();
  if (text.startsWith('{')) {
    try {
      const body: unknown = JSON.parse(text);
      if (typeof body === 'object' && body !== null)
        return Object.entries(body).map(([name, value]) => ({ name, value: String(value) }));
    } catch {
      return [];
    }
  }
  const query = text.slice(text.indexOf('?') + 1).replace(/#.*$/, (end) => (/^#\w+#/.test(end) ? end : ''));
  return query
    .split('&')
    .filter((pair) => pair.includes('='))
    .map((pair) => {
      const mark = pair.indexOf('=');
      return { name: decodeQueryText(pair.slice(0, mark)), value: decodeQueryText(pair.slice(mark + 1)) };
    });
};

/**
 * Reads an example of a postback, an address with placeholders as networks document it or one that came, and says what
 * each parameter seems to be: first by a value that shows it, then by its name. Each field is given once.
 */
export const learnPostback = (example: string): LearnedPair[] => {
  const pairs = pairsIn(example).map((pair) => ({ ...pair, placeholder: isPlaceholder(pair.value) }));
  const fields = new Map<number, PostbackField>();
  const taken = new Set<PostbackField>();
  const give = (place: number, field: PostbackField | undefined) => {
    if (field === undefined || taken.has(field) || fields.has(place)) return;
    fields.set(place, field);
    taken.add(field);
  };
  for (const [i, pair] of pairs.entries()) if (!pair.placeholder) give(i, fieldOfValue(pair.value));
  for (const [field, form] of names)
    for (const [i, { name, value, placeholder: unfilled }] of pairs.entries())
      if (form.test(name) || (unfilled && form.test(value.replace(/[^\w-]/g, '')))) give(i, field);
  return pairs.map((pair, i) => ({ ...pair, field: fields.get(i) }));
};

/** What a network's word for a state most likely means (*common practice*); undefined where that cannot be told. */
export const statusMeant = (word: string): Status | undefined => {
  if (/reject|declin|cancel|void|reverse|refund|charge.?back|invalid/i.test(word)) return 'reversed';
  if (/paid|settled|payout/i.test(word)) return 'paid';
  if (/approv|confirm|accept|valid|^ok$|lock/i.test(word)) return 'approved';
  if (/pend|open|hold|new|wait|review/i.test(word)) return 'pending';
  return undefined;
};
