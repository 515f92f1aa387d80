import type { Decision } from '#core/catalogue';
import type { Minor, Sum } from '#core/values';
import { exponentOf, sumByCurrency, writeAmount } from '#core/values';
import type { Cause, Flag, Unit } from './unit.ts';
import { leadingSide, unitAt } from './unit.ts';

/** What a difference waits for. */
export type CaseKind =
  | 'cut short'
  | 'case changed'
  | 'placeholder not filled'
  | 'one click fits'
  | 'record missing'
  | 'not one of ours'
  | Exclude<Cause, 'not yet reported' | 'another month' | 'written off'>
  | Flag
  | 'odd amount'
  | 'not verified'
  | 'clicks differ';

/** What could be done about a case, and what comes of it. */
export interface Proposal {
  /** What the press says. */
  readonly does: string;
  /** Nothing can go wrong by accepting it together with others. */
  readonly safe: boolean;
  /** What is then recorded: that it holds, or that the network was asked. */
  readonly as: 'accept' | 'ask';
}

/** A difference that waits for a person. */
export interface Case {
  /** The same after every recomputing. */
  readonly id: string;
  readonly kind: CaseKind;
  readonly unit: string;
  readonly network: string;
  /** Month it belongs to, by their word where they have one, else by ours. */
  readonly month: string;
  readonly at: number;
  readonly worth: Minor;
  readonly currency: string;
  readonly because: string;
  readonly proposal: Proposal;
  readonly decision?: Decision;
}

/** ID of the case of a kind that a unit has. */
export const caseId = (kind: CaseKind, unit: string): string => `${kind}|${unit}`;

/** The newest decision on each case. */
export const latestDecisions = (decisions: readonly Decision[]): Map<string, Decision> => {
  const latest = new Map<string, Decision>();
  for (const decision of decisions) {
    const before = latest.get(decision.case);
    if (!before || before.at < decision.at || (before.at === decision.at && before.id < decision.id))
      latest.set(decision.case, decision);
  }
  return latest;
};

/** Clicks that were chosen, by the ID of the unit they were chosen for. */
export const chosenClicks = (decided: ReadonlyMap<string, Decision>): Map<string, string> => {
  const chosen = new Map<string, string>();
  for (const [id, { kind, click }] of decided)
    if ((kind === 'choose' || kind === 'accept') && click !== undefined && click !== '')
      chosen.set(id.slice(id.indexOf('|') + 1), click);
  return chosen;
};

/** What of the decisions changes the conversions themselves, as a text to compare. */
export const whatIsBelieved = (decisions: readonly Decision[]): string =>
  [...latestDecisions(decisions)]
    .flatMap(([id, { kind }]) => (kind === 'accept' && /^(?:odd amount|not verified)\|/.test(id) ? [id] : []))
    .sort()
    .join('\n');

const safe = (does: string): Proposal => ({ does, safe: true, as: 'accept' });
const unsafe = (does: string): Proposal => ({ does, safe: false, as: 'accept' });
const ask = (does: string): Proposal => ({ does, safe: false, as: 'ask' });

type Found = readonly [CaseKind, string, Proposal];

const byMatch = ({ match, conversion }: Unit): Found | undefined => {
  switch (match.level) {
    case 'prefix':
      return ['cut short', match.because, safe('Accept the click')];
    case 'folded':
      return ['case changed', match.because, safe('Accept the click')];
    case 'row':
      return ['placeholder not filled', match.because, safe('Accept the click of the report row')];
    case 'probable':
      return ['one click fits', match.because, unsafe('Accept the click')];
    case 'unfilled':
      return conversion
        ? ['placeholder not filled', match.because, ask('Ask the network to fill it')]
        : ['placeholder not filled', match.because, unsafe('Leave it without a click')];
    case 'missing':
      return ['record missing', match.because, unsafe('Leave it without a click')];
    case 'not ours':
      return ['not one of ours', match.because, ask('Ask the network whose it is')];
    case 'exact':
    case 'recurring':
    case 'chosen':
    case 'coupon':
      return undefined;
  }
};

const byCause = ({ cause, ours, theirs, conversion, reported }: Unit): Found | undefined => {
  switch (cause) {
    case 'no postback':
      return [cause, 'The report has it, but no postback came.', safe('Count it from the report')];
    case 'refund':
      // Where we heard of it too, nothing waits for anybody.
      if (conversion || !reported) return undefined;
      return reported.refundOf === 'sale'
        ? [cause, 'The report takes back a part of a sale, or all of it.', unsafe('Take their word')]
        : [cause, 'The report takes back money of a sale that no report lists.', ask('Ask the network')];
    case 'no longer listed':
      return [
        cause,
        'An earlier report had it; a newer one of the same days lists it no longer.',
        ask('Ask the network'),
      ];
    case 'sent twice':
      return [
        cause,
        'The same click, event and amount came again within the hour without a transaction: the account-wide and the per-offer postback both fired.',
        safe('Count it once'),
      ];
    case 'not in report':
      return [
        cause,
        'We heard of it, the report covers its day and does not have it.',
        ask('Ask the network'),
      ];
    case 'reversed':
      return [
        cause,
        ours?.counts
          ? 'The report reversed it; no postback said so.'
          : 'A postback reversed it; the report still has it.',
        unsafe('Take their word'),
      ];
    case 'currency':
      return [
        cause,
        `We heard ${ours?.currency ?? ''}, the report says ${theirs?.currency ?? ''}.`,
        ask('Ask the network'),
      ];
    case 'below terms':
      return [cause, 'The report pays less than the terms of the program.', ask('Ask the network')];
    case 'amount':
      return [cause, 'The report has another amount than the postback.', unsafe('Take their word')];
    default:
      return undefined;
  }
};

/** What is to be asked of the conversion itself. */
const byConversion = ({ conversion }: Unit): Found | undefined => {
  if (!conversion) return undefined;
  const { unverified, odd, amount, currency } = conversion;
  if (unverified === 'sender' || unverified === 'signature' || unverified === 'time')
    return [
      'not verified',
      {
        sender: 'It came from an address that is not on the list of this network’s senders.',
        signature: 'Its signature is missing or wrong.',
        time: 'The time it was signed with is missing, or too far from when it came.',
      }[unverified],
      unsafe('Count it all the same'),
    ];
  if (odd !== undefined)
    return [
      'odd amount',
      `${writeAmount(conversion.corrected ? odd * 10 ** exponentOf(currency) : (amount ?? 0), currency)} came without decimals, and ${writeAmount(odd, currency)} is usual here.`,
      unsafe(`Read it as ${writeAmount(odd, currency)}`),
    ];
  return undefined;
};

const flagWords: Readonly<Record<Flag, string>> = {
  'before its click': 'It happened before the click it carries.',
  'outside the window': 'More days lie between click and sale than the network credits.',
  'click of a bot': 'The click was a machine’s.',
  'click of a test': 'The click was a test of yours: the sale may be your own.',
  'claimed twice': 'Two programs claim the same click.',
};

/** What a unit is worth: what differs, or all of it where nothing differs. */
const worthOf = (unit: Unit, kind: CaseKind): { worth: Minor; currency: string } => {
  const { ours, theirs, cause } = unit;
  const { currency } = leadingSide(unit);
  const our = ours?.counts ? (ours.amount ?? 0) : 0;
  const their = theirs?.counts ? (theirs.amount ?? 0) : 0;
  if (kind === 'no longer listed') return { worth: -(theirs?.amount ?? our), currency };
  if (kind === cause && kind !== 'sent twice')
    return { worth: theirs && ours ? their - our : their || our, currency };
  if (kind === 'sent twice') return { worth: 0, currency };
  return { worth: their || our, currency };
};

/**
 * The cases of a unit: one for its match, one for what differs, one for each flag. What is reversed on both sides and
 * differs in nothing asks for nothing.
 */
export const casesOf = (unit: Unit): Case[] => {
  const { level } = unit.match;
  const { conversion } = unit;
  const asks = byConversion(unit);
  // A conversion that is not verified waits for that alone to be settled, unless their report has it.
  const unverified = conversion?.unverified !== undefined && !conversion.trusted && !unit.reported;
  if (unverified) return asks ? [caseOf(unit, asks)] : [];
  if (
    !asks &&
    unit.cause === undefined &&
    unit.flags.length === 0 &&
    (level === 'exact' || level === 'chosen' || level === 'recurring' || level === 'coupon')
  )
    return [];
  const found: Found[] = asks ? [asks] : [];
  // What only repeats another asks for that alone.
  const repeats = unit.cause === 'sent twice';
  const isSale = unit.reported?.refundOf === undefined;
  const match = repeats || !isSale ? undefined : byMatch(unit);
  if (match) found.push(match);
  const cause = byCause(unit);
  if (cause) found.push(cause);
  for (const flag of repeats ? [] : unit.flags) found.push([flag, flagWords[flag], unsafe('Let it count')]);
  return found.map((one) => caseOf(unit, one));
};

const caseOf = (unit: Unit, [kind, because, proposal]: Found): Case => ({
  id: caseId(kind, unit.id),
  kind,
  unit: unit.id,
  network: unit.network,
  month: leadingSide(unit).month,
  at: unitAt(unit),
  ...worthOf(unit, kind),
  because,
  proposal,
});

/** Cases of one kind. */
export interface CaseGroup {
  readonly kind: CaseKind;
  readonly cases: readonly Case[];
  /** What they are worth, by currency. */
  readonly worth: readonly Sum[];
  readonly safe: number;
  /** When the oldest happened. */
  readonly oldest: number;
}

/** Groups the cases that nobody decided yet: dearest first, by the sum of what each is worth without its sign. */
export const groupCases = (cases: readonly Case[]): CaseGroup[] => {
  const groups = new Map<CaseKind, Case[]>();
  for (const one of cases) {
    if (one.decision) continue;
    const list = groups.get(one.kind);
    if (list) list.push(one);
    else groups.set(one.kind, [one]);
  }
  const size = (list: readonly Case[]) => list.reduce((sum, one) => sum + Math.abs(one.worth), 0);
  return [...groups]
    .map(([kind, list]): CaseGroup => {
      const worth = sumByCurrency(
        list.flatMap(({ currency, worth: minor }) => (minor === 0 ? [] : [{ currency, minor }])),
      );
      return {
        kind,
        cases: list.sort(
          (a, b) => Math.abs(b.worth) - Math.abs(a.worth) || a.at - b.at || (a.id < b.id ? -1 : 1),
        ),
        worth,
        safe: list.filter((one) => one.proposal.safe).length,
        oldest: list.reduce((oldest, one) => Math.min(oldest, one.at), Infinity),
      };
    })
    .sort((a, b) => size(b.cases) - size(a.cases) || (a.kind < b.kind ? -1 : 1));
};
