import type { LinkFormat, Role } from '#core/catalogue';
import type { LinkPair } from './splitLink.ts';
import { decodeQueryText } from './queryText.ts';

/** What a parameter is for, and how that is known. */
export interface RoleGuess {
  readonly role: Role;
  /** A plain sentence for the screen. */
  readonly reason: string;
}

/**
 * Names under which networks take sub-IDs (common practice). A silent table for recognition, never a label.
 */
const slotNames =
  /^(?:sid|tid|cid|clickid|click_?ref\d?|sub(?:_?id)?_?\d{0,2}|s[1-5]|aff_?sub\d?|aff_?track|u1|ref\d|track(?:ing)?_?id|epi\d?|label)$/i;

const pageUrl = /^https?:\/\/[^/\s]/i;

/** The absolute address inside a value after decoding it once or twice, or nothing. */
export const pageInside = (raw: string): string | undefined => {
  let value = raw;
  for (let times = 0; times < 3; times++) {
    if (pageUrl.test(value)) return value;
    const next = decodeQueryText(value);
    if (next === value) return undefined;
    value = next;
  }
  return undefined;
};

/** True for a long run of letters and digits in no order, as ciphers and their codings give. */
const looksEncrypted = (value: string): boolean =>
  /^[A-Za-z0-9+/=_%-]{24,}$/.test(value) && /[a-z]/.test(value) && /[A-Z]/.test(value) && /\d/.test(value);

/** Guesses one parameter's role: by the network's link format, then by its value, then by its name. */
export const guessRole = (pair: LinkPair, linkFormat?: LinkFormat): RoleGuess => {
  const known = linkFormat?.parameters.find((parameter) => parameter.name === pair.name);
  if (known) return { role: known.role, reason: 'The network’s link format says so.' };
  if (pageInside(pair.value) !== undefined) return { role: 'page', reason: 'Its value is an address.' };
  if (slotNames.test(pair.name))
    return { role: 'slot', reason: 'Networks often take sub-IDs under this name.' };
  if (looksEncrypted(pair.value))
    return {
      role: 'other',
      reason: 'It looks encrypted: only the network can read it. Trace the link to see where it leads.',
    };
  return { role: 'other', reason: 'Nothing tells what it is for; it is sent as it stands.' };
};
