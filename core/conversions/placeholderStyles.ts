import type { PostbackField, PostbackProfile } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';
import type { LearnedPair } from './learnPostback.ts';
import { statusMeant } from './learnPostback.ts';

/** How networks write a placeholder, with `*` for its name (*common practice*). */
export const placeholderStyles = ['{*}', '[*]', '[[*]]', '%*%', '#*#', '{{*}}', '${*}', '<*>'] as const;
export type PlaceholderStyle = (typeof placeholderStyles)[number];

/** Names that networks often give their values (*common practice*); the click's is the name of its slot. */
const usualNames: Readonly<Record<PostbackField, string>> = {
  click: 'subid',
  event: 'event',
  status: 'status',
  amount: 'payout',
  currency: 'currency',
  txn: 'transaction_id',
  at: 'timestamp',
};

/**
 * A placeholder for each value in one style, by the names that are usual: a proposal, to be held against the network's help
 * page.
 *
 * @param clickSlot name of the slot that carries the click ID, where it has a name of its own
 */
export const placeholdersIn = (
  style: PlaceholderStyle,
  clickSlot?: string,
): Record<PostbackField, string> => {
  const named = clickSlot !== undefined && /^\w+$/.test(clickSlot) ? { click: clickSlot } : {};
  const names = { ...usualNames, ...named };
  const write = (field: PostbackField) => style.replace('*', () => names[field]);
  return {
    click: write('click'),
    event: write('event'),
    status: write('status'),
    amount: write('amount'),
    currency: write('currency'),
    txn: write('txn'),
    at: write('at'),
  };
};

/** What of a profile an example teaches. */
export type TaughtPostback = Pick<PostbackProfile, 'placeholders' | 'fields' | 'statuses'>;

/** A profile with what an example showed: names of parameters, placeholders, and words for a state. */
export const withLearned = (profile: TaughtPostback, pairs: readonly LearnedPair[]): TaughtPostback => {
  const placeholders = { ...profile.placeholders };
  const named = new Map(Object.entries(profile.fields));
  const words = { ...profile.statuses };
  for (const { name, value, field, placeholder } of pairs) {
    if (field === undefined) continue;
    // A placeholder of a help text stands under no name: then the parameter has ours.
    if (name === '' || name === field) named.delete(field);
    else named.set(field, name);
    if (placeholder) placeholders[field] = value;
    else if (field === 'status') words[value.toLowerCase()] ??= statusMeant(value) ?? 'pending';
  }
  return { placeholders, fields: Object.fromEntries(named), statuses: words };
};

/** The fields an address asks the network for, in their order. */
export const askedFields = ({ placeholders }: Pick<PostbackProfile, 'placeholders'>): PostbackField[] =>
  postbackFields.filter((field) => (placeholders[field] ?? '') !== '');
