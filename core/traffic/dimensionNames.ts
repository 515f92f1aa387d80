/** What requests can be told apart by, in the order in which a screen offers it. */
export const dimensionNames = [
  'link',
  'source',
  'page',
  'site',
  'country',
  'language',
  'device',
  'browser',
  'system',
  'hour',
  'destination',
  'branch',
  'domain',
  'network',
  'program',
  'group',
  'tags',
  'writer',
  'slot1',
  'slot2',
  'slot3',
  'slot4',
  'slot5',
] as const;

export type DimensionName = (typeof dimensionNames)[number];
