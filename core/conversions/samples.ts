import type { Network, PostbackField } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';
import { queryPair } from '#core/link-parts';

/** What a sample postback can be like: as it should be, or with one of the faults of the trade. */
export const sampleKinds = [
  'as it should be',
  'placeholder not replaced',
  'without a click ID',
  'a click of somebody else',
  'amount with a currency sign',
  'a word it never used',
] as const;
export type SampleKind = (typeof sampleKinds)[number];

/** How a sample is sent. */
export type SampleVia = 'GET' | 'form' | 'JSON';

/**
 * The query, form or body of a sample postback of a network, with our fields under the names it uses.
 *
 * @param click a click ID of ours; empty where there is none yet
 * @param txn transaction of the sample
 * @param at when it happened; milliseconds since 1970 UTC
 */
export const samplePostback = (
  { postback, currency }: Pick<Network, 'postback' | 'currency'>,
  kind: SampleKind,
  via: SampleVia,
  click: string,
  txn: string,
  at: number,
): string => {
  const pending =
    Object.entries(postback.statuses).find(([, means]) => means === 'pending')?.[0] ?? 'pending';
  const values: Partial<Record<PostbackField, string>> = {
    click,
    event: 'sale',
    status: pending,
    amount: currency === 'JPY' ? '860' : '8.60',
    currency,
    txn,
    at: new Date(at).toISOString(),
  };
  switch (kind) {
    case 'as it should be':
      break;
    case 'placeholder not replaced':
      values.click = postback.placeholders.click ?? '{click}';
      break;
    case 'without a click ID':
      values.click = '';
      break;
    case 'a click of somebody else':
      values.click = 'a81f-2291';
      break;
    case 'amount with a currency sign':
      values.amount = `€${values.amount}`;
      break;
    case 'a word it never used':
      values.status = 'wobbly';
      break;
  }
  // What the network offers no placeholder for does not come either.
  const sent = postbackFields.flatMap((field): [string, string][] => {
    const value = values[field];
    const offered =
      Object.keys(postback.placeholders).length === 0 || postback.placeholders[field] !== undefined;
    return value === undefined || !offered ? [] : [[postback.fields[field] ?? field, value]];
  });
  if (via === 'JSON') return JSON.stringify(Object.fromEntries(sent), undefined, 1);
  return sent.map(([name, value]) => queryPair(name, value)).join('&');
};
