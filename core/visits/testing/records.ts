import type { HopRecord, PostbackRecord } from '../records.ts';

/** The user agent of a person, for records that do not say another. */
export const personsAgent = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';

/** A hop of a person at their desk, with whatever is given over the defaults. */
export const hopRecord = (more: Partial<HopRecord> = {}): HopRecord => ({
  seq: 1,
  kind: 'hop',
  at: 0,
  click: '',
  link: 'lnk_kit',
  version: 1,
  branch: 'everyone',
  source: '',
  status: 307,
  method: 'GET',
  host: 'see.nightledge.example',
  ua: personsAgent,
  visitor: '00000000000000a1',
  country: '',
  device: 'desktop',
  from: '',
  query: '',
  lang: '',
  prefetch: false,
  test: false,
  ...more,
});

/** A postback by GET of the network `net_h`, with whatever is given over the defaults. */
export const postbackRecord = (more: Partial<PostbackRecord> = {}): PostbackRecord => ({
  seq: 1,
  kind: 'postback',
  at: 0,
  network: 'net_h',
  via: 'GET',
  query: '',
  body: null,
  ip: '',
  ...more,
});
