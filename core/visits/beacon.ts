import { deviceOf } from '#core/hop';
import type { HopRecord, JournalRecord } from './records.ts';

type Beacon = Extract<JournalRecord, { kind: 'beacon' }>;

/** Branch of visits that a page told of; no link has one of this name. */
export const pageBranch = 'page';

/**
 * A click that a page told of, as the visit it is. It is told for links that may not be cloaked: no hop of ours saw it,
 * so its status is that of a hop that sends on.
 */
export const visitOfBeacon = (beacon: Beacon): HopRecord => ({
  seq: beacon.seq,
  kind: 'hop',
  at: beacon.at,
  click: beacon.click,
  link: beacon.link,
  version: 0,
  branch: pageBranch,
  source: beacon.source,
  status: 307,
  method: 'GET',
  host: '',
  ua: beacon.ua,
  visitor: beacon.visitor,
  country: beacon.country,
  device: deviceOf(beacon.ua, ''),
  from: beacon.page,
  query: '',
  lang: '',
  prefetch: false,
  test: false,
  ...(beacon.hosting !== undefined && { hosting: beacon.hosting }),
  ...(beacon.first !== undefined && { first: beacon.first }),
});
