const words =
  /(?:^|[^a-z])(?:event|launch|webinar|early[-_ ]?bird|pre[-_ ]?order|presale|sale|black[-_ ]?friday|cyber[-_ ]?monday|deal|countdown|ticket|festival|conference|summit|workshop|giveaway|limited|eclipse)s?(?:[^a-z]|$)/i;
const dated = /(?:^|[^\d])20\d\d[-_/]?(?:0[1-9]|1[0-2])(?:[^\d]|$)/;

/**
 * True for a title or an address that speaks of an event, a launch or a sale: something that ends, so that its end is
 * worth asking for.
 */
export const looksLikeEvent = (text: string): boolean => words.test(text) || dated.test(text);
