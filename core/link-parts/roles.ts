import type { LinkFormat, Role } from '#core/catalogue';
import { pageInside } from './pageCoding.ts';
import type { LinkPart } from './places.ts';

/** What a part of a link is for, and how that is known. */
export interface RoleGuess {
  readonly role: Role;
  /** Nothing tells its role: `role` is then `other`, and somebody has to say which it is. */
  readonly open?: true;
  /** A plain sentence for the screen. */
  readonly reason: string;
}

/**
 * Names under which networks take sub-IDs (common practice). A silent table for recognition, never a label.
 */
const slotNames =
  /^(?:sid|tid|cid|click_?id|click_?ref\d?|sub(?:_?id)?_?\d{0,2}|s[1-5]|aff_?sub\d?|aff_?track|u1|ref\d|track(?:ing)?_?id|epi\d?|label)$/i;

/** The trade's names of accounts, programs and creatives (common practice); each counts only with the look of its value. */
const names: readonly { readonly role: Role; readonly form: RegExp; readonly is: string }[] = [
  {
    role: 'account',
    form: /^(?:aff|aff_?id|affiliate(?:_?id)?|pub|pub_?id|publisher(?:_?id)?|partner(?:_?id)?)$/i,
    is: 'accounts',
  },
  {
    role: 'program',
    form: /^(?:offer(?:_?id)?|oid|camp|campaign(?:_?id)?|mid|merchant(?:_?id)?|advertiser(?:_?id)?|program(?:me)?(?:_?id)?)$/i,
    is: 'programs',
  },
  { role: 'creative', form: /^(?:cr|creative(?:_?id)?|banner(?:_?id)?|ad|ad_?id)$/i, is: 'creatives' },
];
/** A number or a short name, as accounts, programs and creatives have; no sentence, no word of several kinds of signs. */
const codeLike = /^[A-Za-z0-9][A-Za-z0-9_.-]{0,31}$/;

/** True for a long run of letters and digits in no order, as ciphers and their codings give. */
const looksEncrypted = (value: string): boolean =>
  /^[A-Za-z0-9+/=_%-]{24,}$/.test(value) && /[a-z]/.test(value) && /[A-Z]/.test(value) && /\d/.test(value);

/** A part's own name, without the sign of where it stands; empty where it has only a place. */
const ownName = (name: string): string => (/^\/|^#\/|#\d+$/.test(name) ? '' : name.replace(/^#/, ''));

/** True for a name under which networks take sub-IDs. */
export const isSlotName = (name: string): boolean => slotNames.test(ownName(name));

/** Guesses one part's role: by the network's link format, then by its value, then by its name. */
export const guessRole = (
  { name, value }: Pick<LinkPart, 'name' | 'value'>,
  linkFormat?: LinkFormat,
): RoleGuess => {
  const known = linkFormat?.parameters.find((parameter) => parameter.name === name);
  if (known) return { role: known.role, reason: 'The network’s link format says so.' };
  if (pageInside(value) !== undefined) return { role: 'page', reason: 'Its value is an address.' };
  if (/\{(?:click|source)\}/.test(value)) return { role: 'slot', reason: 'A token is filled in here.' };
  if (isSlotName(name)) return { role: 'slot', reason: 'Networks often take sub-IDs under this name.' };
  const named = codeLike.test(value) ? names.find(({ form }) => form.test(ownName(name))) : undefined;
  if (named) return { role: named.role, reason: `Networks often name ${named.is} like this.` };
  if (looksEncrypted(value))
    return {
      role: 'other',
      reason: 'It looks encrypted: only the network can read it. Trace the link to see where it leads.',
    };
  return { role: 'other', open: true, reason: 'Nothing tells what it is for; it is sent as it stands.' };
};
