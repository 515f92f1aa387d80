/** Words that Nightledge links in its articles, by the slug of the link. */
export const articleWords: Readonly<Record<string, readonly string[]>> = {
  'saturn-kit': ['Saturn eyepiece kit'],
  'dew-band': ['dew heater band'],
  'moon-filter': ['moon filter'],
  collimator: ['collimator'],
  cleaning: ['cleaning set for optics'],
  'hand-warmer': ['hand warmer'],
  blanket: ['blanket for two'],
  'star-map': ['star chart app'],
  'meteor-alerts': ['meteor alerts'],
  'red-lamp': ['red torch', 'torch'],
  binos: ['binoculars 10 × 50'],
};
