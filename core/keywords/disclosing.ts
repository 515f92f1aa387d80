/**
 * Words by which a sentence says that links are paid for, in several languages (common practice). Each is one that is hardly read
 * elsewhere: *commission* alone may be any.
 */
export const disclosing =
  /affiliate|\bpays? (?:us|me)\b|\b(?:earn|get|receive)s? (?:a |us a )?(?:small )?commission|paid links?\b|\bsponsored (?:link|post)|werbelink|werbung|\banzeige\b|\bprovision\b|liens? (?:affilié|sponsorisé)|enlaces? de afiliad|link di affiliazione|affiliatelink|gesponsorde/i;

/** Longer blocks say more than why the links are there. */
const longestDisclosure = 1500;

/** True for a block of words that says why links are there: nothing is linked in it. */
export const isDisclosing = (text: string): boolean =>
  text.length <= longestDisclosure && disclosing.test(text);
