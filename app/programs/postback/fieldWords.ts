import type { PostbackField } from '#core/catalogue';

/** What each of our postback fields is called on the screen. */
export const fieldWords: Readonly<Record<PostbackField, string>> = {
  click: 'click ID',
  event: 'kind of event',
  status: 'state',
  amount: 'what you earn',
  currency: 'currency',
  txn: 'transaction',
  at: 'when it happened',
};
