import type { PixelRecord, PostbackRecord } from './records.ts';

/** What a page of the person's own told by a pixel, as the postback it stands for: anybody could have sent it. */
export const postbackOfPixel = ({ seq, at, network, query }: PixelRecord): PostbackRecord => ({
  seq,
  at,
  kind: 'postback',
  network,
  via: 'GET',
  query,
  body: null,
  ip: '',
  unverified: 'pixel',
});
