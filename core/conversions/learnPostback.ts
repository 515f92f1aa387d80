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

/** By what a value is known (*common practice*): its name, and the words with which help texts explain it. */
interface Signs {
  readonly field: PostbackField;
  /** Names that say it. */
  readonly names: RegExp;
  /** Names that may say it, where nothing says it better. */
  readonly perhaps: RegExp;
  /** Words of an explanation. */
  readonly words: RegExp;
  /** In a name or an explanation: it is something else of that kind. */
  readonly not: RegExp;
}

const signs: readonly Signs[] = [
  {
    field: 'click',
    names:
      /^(?:aff_?)?sub(?:_?id)?_?\d?$|sub.?id|click.?ref|aff.?sub|tracking|^[sku]\d$|^(?:ref|note|tag|sid)\d?$/i,
    perhaps: /^click$|click.?id|^cid$/i,
    words: /click.?id|click reference|sub.?id|your (?:own )?(?:tracking )?(?:id|reference)\b/i,
    not: /time|date|\bip\b|our own/i,
  },
  {
    field: 'txn',
    names:
      /^txn$|transaction|^(?:order|ord)(?:$|.?(?:id|no|nr|number|ref))|conversion.?id|^lead(?:.?id)?$|^(?:lead|sale).?id$/i,
    perhaps: /^(?:tid|oid|id)$|reference|order/i,
    words:
      /(?:order|transaction|conversion|lead|sale).{0,12}(?:id|number|reference)|(?:number|id|reference) of the (?:order|transaction|conversion|lead|sale)|unique id|\bthe order$/i,
    not: /offer|goal|affiliate|aff_?id|publisher|campaign|advertiser|value|amount|total|click|time|date|name|status|state/i,
  },
  {
    field: 'amount',
    names: /payout|commission|reward|earning|provision/i,
    perhaps: /amount|revenue|^sum$|^price$/i,
    words: /payout|commission|what you earn|earnings?|reward/i,
    not: /(?:sale|order|basket|cart|transaction|gross|item).?(?:amount|value|price|total|sum)|order value|value of the|basket|currency|rate\b|type/i,
  },
  {
    field: 'currency',
    names: /^cur(?:r|rency)?(?:[_-]?code)?$/i,
    perhaps: /currency/i,
    words: /currency/i,
    not: /rate|exchange/i,
  },
  {
    field: 'status',
    names: /^(?:order|conversion|transaction|lead)?_?stat(?:us|e)$|^result$/i,
    perhaps: /approved|stat(?:us|e)|^st$/i,
    words: /\bstat(?:us|e)\b/i,
    not: /country|region|time|date|code/i,
  },
  {
    field: 'at',
    names:
      /^at$|^(?:date)?time$|^date$|timestamp|^when$|^ts$|(?:conversion|order|sale|transaction).?(?:time|date)/i,
    perhaps: /time|date|when/i,
    words: /\b(?:time|date)\b|timestamp|when it happened/i,
    not: /click|impression|zone|update|approv/i,
  },
  {
    field: 'event',
    names: /^(?:event|goal|action)(?:.?name)?$/i,
    perhaps: /event|goal|action|^type$|^kind$|^what$/i,
    words: /\b(?:event|goal|action)\b/i,
    not: /id$|number|transaction|time|date|offer|amount|payout/i,
  },
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

/** How much a pair looks like a field: more for a value that shows it, then its name, then words about it; 0 for not at all. */
const likeness = (
  { name, value, about, placeholder }: Pair & { placeholder: boolean },
  field: Signs,
): number => {
  const bare = placeholder ? value.replace(/[^\w.-]/g, '') : '';
  if ([name, bare, about].some((text) => field.not.test(text))) return 0;
  const names = [name, bare].filter((text) => text !== '');
  const byName = names.some((text) => field.names.test(text))
    ? 3
    : names.some((text) => field.perhaps.test(text))
      ? 2
      : field.words.test(about)
        ? 1
        : 0;
  return byName + (!placeholder && fieldOfValue(value) === field.field ? 10 : 0);
};

/**
 * Reads an example of a postback, an address with placeholders as networks document it or one that came, and says what
 * each parameter seems to be: first by a value that shows it, then by its name, then by the words beside it. A table of
 * placeholders or a help text is read too. Where two fit a field equally well, or a name is that of something else of the
 * kind (an order value, the network's own click ID), the field is left open.
 *
 * @param clickSlot the sub-ID slot that carries the click ID: a placeholder named like it is the click's
 */
export const learnPostback = (example: string, clickSlot?: string): LearnedPair[] => {
  const pairs = pairsIn(example).map((pair) => ({ ...pair, placeholder: isPlaceholder(pair.value) }));
  const fields = new Map<number, PostbackField>();
  const slot = clickSlot?.toLowerCase();
  const bySlot = pairs.findIndex(
    ({ value, placeholder }) => placeholder && value.replace(/[^\w-]/g, '').toLowerCase() === slot,
  );
  if (slot !== undefined && bySlot >= 0) fields.set(bySlot, 'click');
  for (const sign of signs) {
    if ([...fields.values()].includes(sign.field)) continue;
    const likely = pairs.map((pair, i) => (fields.has(i) ? 0 : likeness(pair, sign)));
    const most = Math.max(0, ...likely);
    // Two that fit equally well are asked about.
    if (most > 0 && likely.filter((value) => value === most).length === 1)
      fields.set(likely.indexOf(most), sign.field);
  }
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
