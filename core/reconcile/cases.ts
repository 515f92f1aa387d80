import type { Decision, Network } from '#core/catalogue';
import { fingerprint } from '#core/catalogue';
import type { AskedAbout, Doubt, ReadPostback } from '#core/conversions';
import { monthIn } from '#core/hop';
import type { Minor, Sum } from '#core/values';
import { exponentOf, sumByCurrency, writeAmount } from '#core/values';
import type { PostbackRecord } from '#core/visits';
import type { ClickDifference } from './clickCases.ts';
import type { Cause, Flag, Unit } from './unit.ts';
import { leadingSide, unitAt } from './unit.ts';

/** What a difference waits for. */
export type CaseKind =
  | UnreadKind
  | 'cut short'
  | 'case changed'
  | 'placeholder not filled'
  | 'one click fits'
  | 'record missing'
  | 'click of another network'
  | 'too short'
  | 'not one of ours'
  | Exclude<Cause, 'not yet reported' | 'another month' | 'written off' | 'not read'>
  | Flag
  | 'odd amount'
  | 'doubtful amount'
  | 'time ahead'
  | 'not verified'
  | 'clicks differ';

/** What of a postback could not be read. */
export type UnreadKind = 'amount not read' | 'state not read' | 'currency not read';

const unreadKinds: Readonly<Record<AskedAbout, UnreadKind>> = {
  amount: 'amount not read',
  status: 'state not read',
  currency: 'currency not read',
};

/** True for a case about a postback that is no conversion until it can be read. */
export const isUnread = (kind: CaseKind): kind is UnreadKind =>
  Object.values(unreadKinds).some((unread) => unread === kind);

/** What could be done about a case, and what comes of it. */
export interface Proposal {
  /** What the press says. */
  readonly does: string;
  /** Nothing can go wrong by accepting it together with others. */
  readonly safe: boolean;
  /** What is then recorded: that it holds, or that the network was asked. */
  readonly as: 'accept' | 'ask';
  /** What the other answer says: that it stays as it is. */
  readonly otherwise?: string;
}

/** A difference that waits for a person. */
export interface Case {
  /** The same after every recomputing. */
  readonly id: string;
  readonly kind: CaseKind;
  /** Empty for a postback that could not be read, and for clicks. */
  readonly unit: string;
  /** The postback that could not be read, by its `seq`. */
  readonly postback?: number;
  /** The clicks that differ, of a case about them. */
  readonly clicks?: ClickDifference;
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

/** ID of the case of a reading in doubt: it names the reading, so that a later doubt of the same conversion is asked about anew. */
export const doubtCaseId = (conversion: string, { amount, currency, status }: Doubt): string =>
  `${caseId('doubtful amount', conversion)}|${amount} ${currency} ${status}`;

/** The unit, or the conversion, that the case of an ID is about. */
export const unitOfCase = (id: string): string => {
  const about = id.slice(id.indexOf('|') + 1);
  return id.startsWith('doubtful amount|') ? about.slice(0, about.lastIndexOf('|')) : about;
};

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
      chosen.set(unitOfCase(id), click);
  return chosen;
};

const believed = /^(?:(?:odd|doubtful) amount|not verified|(?:amount|state|currency) not read)\|/;

/** IDs of the cases whose acceptance changes the conversions themselves. */
export const believedCases = (decisions: readonly Decision[]): Set<string> =>
  new Set(
    [...latestDecisions(decisions)].flatMap(([id, { kind }]) =>
      kind === 'accept' && believed.test(id) ? [id] : [],
    ),
  );

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
    case 'another network':
      return ['click of another network', match.because, ask('Ask the network whose it is')];
    case 'too short':
      return ['too short', match.because, ask('Ask for more characters')];
    case 'not ours':
      return ['not one of ours', match.because, ask('Ask the network whose it is')];
    case 'exact':
    case 'recurring':
    case 'chosen':
    case 'coupon':
      return undefined;
  }
};

const byCause = ({ cause, ours, theirs, conversion, reported, heard }: Unit): Found | undefined => {
  switch (cause) {
    case 'no postback':
      return [cause, 'The report has it, but no postback came.', safe('Count it from the report')];
    case 'refund':
      // Where we heard of it too, nothing waits for anybody.
      if (conversion || !reported || heard) return undefined;
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

const unverifiedWords = {
  sender: 'It came from an address that is not on the list of this network’s senders.',
  signature: 'Its signature is missing or wrong.',
  time: 'The time it was signed with is missing, or too far from when it came.',
} as const;

/** What is to be asked of the conversion itself. */
const byConversion = ({ conversion, reported }: Unit): Found[] => {
  if (!conversion) return [];
  const { unverified, odd, doubt, amount, currency, ahead, at, refundOnly } = conversion;
  if (unverified === 'sender' || unverified === 'signature' || unverified === 'time')
    return [['not verified', unverifiedWords[unverified], unsafe('Count it all the same')]];
  const found: Found[] = [];
  if (doubt !== undefined)
    found.push([
      'doubtful amount',
      doubt.because,
      {
        ...unsafe(
          doubt.status === 'reversed'
            ? 'Take it as reversed'
            : `Take it as ${writeAmount(doubt.amount, doubt.currency)} ${doubt.currency}`,
        ),
        otherwise: doubt.otherwise,
      },
    ]);
  if (refundOnly && !reported)
    found.push([
      'refund',
      'A postback takes back money of a sale that no postback brought.',
      ask('Ask the network'),
    ]);
  if (odd !== undefined)
    found.push([
      'odd amount',
      `${writeAmount(conversion.corrected ? odd * 10 ** exponentOf(currency) : (amount ?? 0), currency)} came without decimals, and ${writeAmount(odd, currency)} is usual here.`,
      unsafe(`Read it as ${writeAmount(odd, currency)}`),
    ]);
  if (ahead !== undefined)
    found.push([
      'time ahead',
      `It says ${new Date(ahead).toISOString().slice(0, 16)} UTC and came ${new Date(at).toISOString().slice(0, 16)} UTC, before that. It stands at the time it came.`,
      unsafe('It stands when it came'),
    ]);
  return found;
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
  const { ours, theirs, cause, conversion } = unit;
  const { currency } = leadingSide(unit);
  const our = ours?.counts ? (ours.amount ?? 0) : 0;
  const their = theirs?.counts ? (theirs.amount ?? 0) : 0;
  // Of two readings, what lies between them.
  const doubt = kind === 'doubtful amount' ? conversion?.doubt : undefined;
  if (doubt && doubt.currency === ours?.currency)
    return { worth: (doubt.status === 'reversed' ? 0 : doubt.amount) - our, currency: doubt.currency };
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
  if (unverified) return asks.map((one) => caseOf(unit, one));
  if (
    asks.length === 0 &&
    unit.cause === undefined &&
    unit.flags.length === 0 &&
    (level === 'exact' || level === 'chosen' || level === 'recurring' || level === 'coupon')
  )
    return [];
  const found: Found[] = [...asks];
  // What only repeats another asks for that alone.
  const repeats = unit.cause === 'sent twice';
  const isSale = unit.reported?.refundOf === undefined && !conversion?.refundOnly;
  const match = repeats || !isSale ? undefined : byMatch(unit);
  if (match) found.push(match);
  const cause = byCause(unit);
  if (cause) found.push(cause);
  for (const flag of repeats ? [] : unit.flags) found.push([flag, flagWords[flag], unsafe('Let it count')]);
  return found.map((one) => caseOf(unit, one));
};

const caseOf = (unit: Unit, [kind, because, proposal]: Found): Case => ({
  id:
    kind === 'doubtful amount' && unit.conversion?.doubt
      ? doubtCaseId(unit.conversion.id, unit.conversion.doubt)
      : caseId(kind, unit.id),
  kind,
  unit: unit.id,
  network: unit.network,
  month: leadingSide(unit).month,
  at: unitAt(unit),
  ...worthOf(unit, kind),
  because,
  proposal,
});

const countAll: Readonly<Record<AskedAbout, string>> = {
  amount: 'Count it without an amount',
  status: 'Count it as pending',
  currency: 'Count it in the network’s currency',
};

/** By what the case of a postback is known: its network and its bytes, so that the same sent again is the same case. */
const postbackName = ({ network, query, body }: PostbackRecord): string =>
  `${network} ${fingerprint(`${query}\n${body ?? ''}`)}`;

/** IDs of the cases of a postback that could not be read, by the field that could not. */
export const unreadCaseIds = (record: PostbackRecord, { unread }: Pick<ReadPostback, 'unread'>): string[] =>
  unread.map((field) => caseId(unreadKinds[field], postbackName(record)));

/** The cases of a postback that could not be read: one for each field that could not. */
export const unreadCases = (
  record: PostbackRecord,
  read: ReadPostback,
  network: Pick<Network, 'zone' | 'currency'> | undefined,
): Case[] => {
  const { event, unread, problems } = read;
  const isWorth = event.amount !== null && !unread.includes('currency');
  return unread.map((field) => ({
    id: caseId(unreadKinds[field], postbackName(record)),
    kind: unreadKinds[field],
    unit: '',
    postback: record.seq,
    network: record.network,
    month: monthIn(network?.zone ?? 'UTC', event.at),
    at: event.at,
    worth: isWorth ? (event.amount ?? 0) : 0,
    currency: isWorth ? event.currency : (network?.currency ?? 'EUR'),
    because: `${problems.find(({ path }) => path === field)?.message ?? ''} The postback is kept and counts nothing until then.`,
    proposal: unsafe(countAll[field]),
  }));
};

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

/**
 * Groups the cases that nobody decided yet: first what could not be read, since nobody knows what that is worth; then dearest
 * first, by the sum of what each is worth without its sign.
 */
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
    .sort(
      (a, b) =>
        Number(isUnread(b.kind)) - Number(isUnread(a.kind)) ||
        size(b.cases) - size(a.cases) ||
        (a.kind < b.kind ? -1 : 1),
    );
};
