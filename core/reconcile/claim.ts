import type { ClaimAnswer, Network, Program, Status, Terms } from '#core/catalogue';
import { fingerprint } from '#core/catalogue';
import type { Conversion } from '#core/conversions';
import { termsOn } from '#core/conversions';
import { dayIn, offsetIn } from '#core/hop';
import type { Minor, Sum } from '#core/values';
import { sumByCurrency, writeAmount } from '#core/values';
import type { PostbackRecord } from '#core/visits';
import type { Case, CaseKind } from './cases.ts';
import { isUnread } from './cases.ts';
import type { ClickDifference } from './clickCases.ts';
import type { Unit } from './unit.ts';
import { unitAt } from './unit.ts';

/** Where their own report says it. */
export interface ReportPlace {
  /** Name of the file. */
  readonly file: string;
  /** Line in it, from 1; undefined for one brought in before lines were kept. */
  readonly line?: number;
  /** ISO 8601 with the zone's offset. */
  readonly broughtIn: string;
}

/** One line of a claim: what supports it and nothing about anybody else. Times are ISO 8601 in the network's zone. */
export interface ClaimLine {
  /** By which an answer names it; the same in every claim it is on. */
  readonly ref: string;
  readonly cause: string;
  readonly because: string;
  /** What is asked of the network, as a sentence. */
  readonly asks: string;
  /** Name and code of the program; empty where it is not known. */
  readonly program: string;
  readonly programCode: string;
  /** The account tag the link carries; empty where none is known. */
  readonly account: string;
  readonly txn: string;
  readonly event: string;
  readonly at: string;
  readonly click: string;
  readonly clickedAt: string;
  readonly link: string;
  /** What a postback said, in minor units; null where none did, or it brought no amount. */
  readonly heardAmount: Minor | null;
  readonly heardCurrency: string;
  readonly ourState: Status | '';
  /** What the program's terms make of a postback without an amount, in minor units, and these terms in words. */
  readonly termsAmount: Minor | null;
  readonly termsCurrency: string;
  readonly terms: string;
  readonly theirAmount: Minor | null;
  readonly theirCurrency: string;
  readonly theirState: Status | '';
  readonly report?: ReportPlace;
  /** What is missing by our word, in minor units; null where nothing is, or currencies differ. */
  readonly claimed: Minor | null;
  readonly claimedCurrency: string;
  /** Clicks of a day that differ. */
  readonly clicks?: ClickDifference;
  /** Why nobody can say that the network itself told us of it; empty where it did. */
  readonly unverified: string;
  /** The postbacks as they came: query and body, with the time; no address of anybody. */
  readonly postbacks: readonly {
    /** Its number in the journal, which a seal covers or does not yet. */
    readonly record: number;
    readonly at: string;
    readonly via: string;
    readonly query: string;
    readonly body: string | null;
    /** The body's bytes in base64, where they are no text. */
    readonly bytes?: string;
  }[];
}

/** A line of a claim with the case it is about. */
export interface ClaimEntry {
  readonly case: Pick<Case, 'id' | 'kind' | 'decision'>;
  readonly line: ClaimLine;
  /** Not asked about yet, asked without an answer, or answered. */
  readonly state: 'to ask' | 'asked' | 'answered';
  readonly answer?: ClaimAnswer;
}

/** What a line is looked up in. */
export interface ClaimSources {
  readonly network: Pick<Network, 'zone'>;
  readonly program: (id: string) => Program | undefined;
  /** The postbacks of the case. */
  readonly postbacks: readonly PostbackRecord[];
  /** ID and time of the click in a row. */
  readonly clickOf: (row: number) => { readonly click: string; readonly at: number };
  /** Short address of a link, and the account tag in its destination. */
  readonly linkOf: (id: string) => { readonly address: string; readonly account: string };
  readonly report?: { readonly file: string; readonly line?: number; readonly at: number };
}

/** What makes a conversion unverified, in a word for a column; empty where nothing does. */
export const unverifiedWord = (conversion: Pick<Conversion, 'unverified' | 'trusted'> | undefined): string =>
  conversion?.unverified === undefined
    ? ''
    : `${conversion.unverified}${conversion.trusted ? ', counted all the same' : ''}`;

/** A moment as ISO 8601 in a zone, with its offset: `2026-10-12T12:00:00+02:00`. */
export const isoIn = (zone: string, at: number): string => {
  const offset = offsetIn(zone, at);
  const minutes = Math.abs(Math.round(offset / 60_000));
  const two = (value: number) => String(value).padStart(2, '0');
  return `${new Date(at + offset).toISOString().slice(0, 19)}${offset < 0 ? '-' : '+'}${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
};

/** What is asked of the network, by the kind of case. */
const questions: Partial<Readonly<Record<CaseKind, string>>> = {
  'not in report': 'Add it to your report, or say why it is not in it.',
  'no longer listed': 'Say where it went.',
  reversed: 'Say why it was reversed.',
  'below terms': 'Pay what your terms say, or say which terms hold.',
  amount: 'Say which amount holds, and why.',
  currency: 'Say which currency holds.',
  refund: 'Say which sale it is taken from.',
  'no postback': 'Send the postback again.',
  'placeholder not filled': 'Have the placeholder of the click ID filled.',
  'cut short': 'Keep the whole click ID.',
  'too short': 'Keep the whole click ID.',
  'click of another network': 'Say whose sale it is.',
  'not one of ours': 'Say whose sale it is.',
  'amount not read': 'Say which amount is meant.',
  'state not read': 'Say what this state means.',
  'currency not read': 'Say which currency is meant.',
  'clicks differ': 'Say what you count as a click.',
};

/** Terms in words: `6.00 EUR for each, from 2026-03-01 on`. */
export const termsWords = (terms: Terms): string => {
  const of = terms.event === '' ? '' : ` of “${terms.event}”`;
  const from = `, from ${terms.from} on`;
  switch (terms.kind) {
    case 'fixed':
      return `${writeAmount(terms.amount, terms.currency)} ${terms.currency} for each${of}${from}`;
    case 'percent':
      return `${(terms.basisPoints / 100).toString()} % of the order${of}${from}`;
    case 'tiers':
      return `${terms.steps
        .map(
          ({ from: nth, amount }) =>
            `${writeAmount(amount, terms.currency)} ${terms.currency} from number ${nth} of a month`,
        )
        .join(', ')}${of}${from}`;
  }
};

const worthOf = (side: Unit['ours']): Minor => (side?.counts ? (side.amount ?? 0) : 0);

/** What is missing by our word, where both sides speak of one currency. */
const claimedOf = ({ ours, theirs }: Unit): Pick<ClaimLine, 'claimed' | 'claimedCurrency'> => {
  const currency = (ours ?? theirs)?.currency ?? '';
  if (ours && theirs && ours.currency !== theirs.currency) return { claimed: null, claimedCurrency: '' };
  const missing = worthOf(ours) - worthOf(theirs);
  return missing > 0
    ? { claimed: missing, claimedCurrency: currency }
    : { claimed: null, claimedCurrency: '' };
};

const nothing = {
  program: '',
  programCode: '',
  account: '',
  txn: '',
  event: '',
  click: '',
  clickedAt: '',
  link: '',
  heardAmount: null,
  heardCurrency: '',
  ourState: '',
  termsAmount: null,
  termsCurrency: '',
  terms: '',
  theirAmount: null,
  theirCurrency: '',
  theirState: '',
  claimed: null,
  claimedCurrency: '',
  unverified: '',
} as const;

/**
 * A line of a claim with its evidence. Of a visitor nothing leaves: no key, no user agent, no country, no page.
 *
 * @param unit the conversion; none for a postback that could not be read, and for clicks
 */
export const claimLine = (
  one: Pick<Case, 'id' | 'kind' | 'because' | 'at' | 'clicks'>,
  unit: Unit | undefined,
  { network: { zone }, program, postbacks, clickOf, linkOf, report }: ClaimSources,
): ClaimLine => {
  const iso = (at: number) => isoIn(zone, at);
  const common = {
    ref: fingerprint(one.id),
    cause: one.kind,
    because: one.because,
    asks: questions[one.kind] ?? 'Say what holds.',
    postbacks: postbacks.map(({ seq, at, via, query, body, bytes }) => ({
      record: seq,
      at: iso(at),
      via,
      query,
      body,
      ...(bytes !== undefined && { bytes }),
    })),
  };
  if (!unit)
    return {
      ...nothing,
      ...common,
      // A day of clicks is a day, no moment.
      at: one.clicks ? '' : iso(one.at),
      ...(one.clicks && { clicks: one.clicks }),
    };
  const { conversion, reported, ours, theirs, match } = unit;
  const click = match.row < 0 || match.level === 'probable' ? undefined : clickOf(match.row);
  const of = program(unit.program);
  const { address, account } = unit.link === '' ? { address: '', account: '' } : linkOf(unit.link);
  const terms = of && ours?.priced ? termsOn(of, conversion?.event ?? '', dayIn(zone, ours.at)) : undefined;
  return {
    ...common,
    program: of?.name ?? '',
    programCode: of?.code ?? '',
    account,
    txn: conversion?.txn || (reported?.txn ?? ''),
    event: conversion?.event ?? reported?.event ?? '',
    at: iso(unitAt(unit)),
    click: click?.click ?? '',
    clickedAt: click === undefined ? '' : iso(click.at),
    link: address,
    heardAmount: ours === undefined || ours.priced ? null : ours.amount,
    heardCurrency: ours === undefined || ours.priced ? '' : ours.currency,
    ourState: ours?.status ?? '',
    termsAmount: ours?.priced ? ours.amount : null,
    termsCurrency: ours?.priced ? ours.currency : '',
    terms: terms ? termsWords(terms) : '',
    theirAmount: theirs?.amount ?? null,
    theirCurrency: theirs?.currency ?? '',
    theirState: theirs?.status ?? '',
    ...(report && {
      report: {
        file: report.file,
        ...(report.line !== undefined && { line: report.line }),
        broughtIn: iso(report.at),
      },
    }),
    ...claimedOf(unit),
    unverified: unverifiedWord(conversion),
  };
};

/** What a claim comes to by currency. */
export const claimedSums = (lines: readonly Pick<ClaimLine, 'claimed' | 'claimedCurrency'>[]): Sum[] =>
  sumByCurrency(
    lines.flatMap(({ claimed, claimedCurrency }) =>
      claimed === null ? [] : [{ currency: claimedCurrency, minor: claimed }],
    ),
  );

/** Kinds of cases that are claimed even before anybody asked. */
const claimed: ReadonlySet<CaseKind> = new Set(['not in report', 'below terms']);

/** How far a case has come on a claim; undefined where it is on none. */
export const claimState = ({
  kind,
  decision,
}: Pick<Case, 'kind' | 'decision'>): ClaimEntry['state'] | undefined => {
  if (!decision) return claimed.has(kind) && !isUnread(kind) ? 'to ask' : undefined;
  if (decision.kind !== 'ask') return undefined;
  return decision.answer ? 'answered' : 'asked';
};
