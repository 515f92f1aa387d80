import type { CaseKind, Cause, ClickCause, MatchLevel } from '#core/reconcile';

/** The name of a kind of case, and in a few words what is to be done about it. */
export const caseWords: Readonly<Record<CaseKind, readonly [name: string, todo: string]>> = {
  'amount not read': ['Amount not read', 'say how they write amounts'],
  'state not read': ['State not read', 'say what their word means'],
  'currency not read': ['Currency not read', 'say which one it is'],
  'cut short': ['Click ID cut short', 'one click begins so'],
  'case changed': ['Click ID case changed', 'the same letters'],
  'placeholder not filled': ['Click ID not filled', 'mend it at the network'],
  'one click fits': ['No click ID, one click fits', 'look before you accept'],
  'record missing': ['Ours, but the record is missing', 'the form is ours'],
  'click of another network': ['Click of another network', 'ask whose sale it is'],
  'too short': ['Click ID too short', 'ask for a longer slot'],
  'not one of ours': ['Not one of ours', 'ask whose it is'],
  'no postback': ['In report, no postback', 'ask the network to resend'],
  refund: ['Refund in report', 'is it right?'],
  'no longer listed': ['No longer in report', 'ask where it went'],
  'sent twice': ['Sent twice', 'switch off one of the two'],
  'not in report': ['Not in report', 'claim it'],
  reversed: ['Reversed in report', 'ask for the reason'],
  currency: ['Another currency', 'ask which holds'],
  'below terms': ['Paid below terms', 'claim the rest'],
  amount: ['Another amount', 'corrected by the network'],
  'before its click': ['Before its click', 'a clock is wrong'],
  'outside the window': ['Outside the cookie window', 'paid all the same'],
  'click of a bot': ['Click of a machine', 'likely not a sale'],
  'click of a test': ['Click of your own test', 'likely your own order'],
  'claimed twice': ['Two programs claim the click', 'one of them is wrong'],
  'odd amount': ['An amount out of the usual', 'were decimals left out?'],
  'doubtful amount': ['Two ways to read it', 'say which holds'],
  'time ahead': ['Time ahead of its arrival', 'a clock is wrong'],
  'not verified': ['Sender not verified', 'count it only if it is theirs'],
  'clicks differ': ['Clicks differ by a tenth', 'ask what they count, or write it off'],
};

/** A piece of the bridge in a word or two, and the meaning whose colour it has. */
export const causeWords: Readonly<
  Record<Cause | ClickCause, readonly [name: string, tone: 'slate' | 'plum' | 'sand' | 'copper']>
> = {
  'no postback': ['no postback', 'slate'],
  'not read': ['postback not read', 'copper'],
  refund: ['refunds', 'plum'],
  'no longer listed': ['no longer listed', 'copper'],
  'sent twice': ['sent twice', 'sand'],
  'not yet reported': ['not yet reported', 'sand'],
  'not in report': ['not in report', 'copper'],
  reversed: ['reversed', 'plum'],
  currency: ['another currency', 'copper'],
  'another month': ['another month', 'sand'],
  'below terms': ['below terms', 'copper'],
  amount: ['another amount', 'copper'],
  'written off': ['written off', 'sand'],
  tests: ['tests', 'sand'],
  prefetches: ['prefetches', 'sand'],
  bots: ['bots', 'sand'],
  'not redirected': ['not redirected', 'sand'],
  'not written': ['not written down', 'sand'],
  repeats: ['repeat visits', 'sand'],
  'day boundary, ours': ['over midnight', 'sand'],
  'day boundary, theirs': ['past midnight', 'slate'],
  traces: ['your traces', 'slate'],
};

/** The name and tone of a piece; a month may have been closed with one that is not known here. */
export const pieceWords = (cause: string): readonly [name: string, tone: string] =>
  (causeWords as Readonly<Record<string, (typeof causeWords)[Cause]>>)[cause] ?? [cause, 'sand'];

export const levelWords: Readonly<Record<MatchLevel, string>> = {
  exact: 'exact',
  folded: 'case changed',
  prefix: 'cut short',
  row: 'by its report row',
  recurring: 'by its first',
  chosen: 'chosen',
  coupon: 'by coupon',
  probable: 'only probable',
  unfilled: 'not filled',
  missing: 'record missing',
  'another network': 'another network’s',
  'too short': 'too short',
  'not ours': 'not ours',
};

const format = new Intl.DateTimeFormat(undefined, { month: 'long', year: 'numeric', timeZone: 'UTC' });
/** A month such as `2026-10` in words, `October 2026`. */
export const monthWords = (month: string): string => format.format(Date.parse(`${month}-01T00:00:00Z`));
