import type { ClaimLine } from '#core/reconcile';
import { answerColumns } from '#core/reconcile';
import { writeAmount } from '#core/values';

/** A column of a claim's rows: its name, what it holds and in which unit, and what it is of a line. */
interface Column {
  readonly name: string;
  readonly means: string;
  readonly unit: string;
  readonly of: (line: ClaimLine) => string;
}

const amount = (minor: number | null, currency: string): string =>
  minor === null ? '' : writeAmount(minor, currency);
const text = (value: number | undefined): string => (value === undefined ? '' : String(value));
const decimal = 'decimal number with a point, in the currency beside it';
const code = 'ISO 4217';

/**
 * The columns of a claim's rows, those the network fills included.
 *
 * @param zone the network's, in which every time is
 */
export const claimColumns = (zone: string): readonly Column[] => {
  const time = `ISO 8601 in ${zone}, with the offset from UTC`;
  return [
    {
      name: answerColumns.ref,
      means: 'by which this row is known; leave it as it is',
      unit: '',
      of: (line) => line.ref,
    },
    { name: 'why', means: 'the kind of difference', unit: '', of: (line) => line.cause },
    { name: 'what we ask', means: 'what would settle it', unit: '', of: (line) => line.asks },
    { name: 'program', means: 'name of your program', unit: '', of: (line) => line.program },
    { name: 'program code', means: 'your code of it', unit: '', of: (line) => line.programCode },
    { name: 'account tag', means: 'the tag our link carries', unit: '', of: (line) => line.account },
    { name: 'transaction', means: 'as your postback or report has it', unit: '', of: (line) => line.txn },
    { name: 'event', means: 'as your postback or report has it', unit: '', of: (line) => line.event },
    {
      name: 'at',
      means: 'when it happened, by our record where we have one',
      unit: time,
      of: (line) => line.at,
    },
    {
      name: 'click ID',
      means: 'of the click it comes from, as sent in the sub-ID',
      unit: '',
      of: (line) => line.click,
    },
    { name: 'clicked at', means: 'when we sent the visitor on', unit: time, of: (line) => line.clickedAt },
    { name: 'short link', means: 'that was followed', unit: '', of: (line) => line.link },
    {
      name: 'we heard',
      means: 'the amount your postback brought; empty where it brought none',
      unit: decimal,
      of: (line) => amount(line.heardAmount, line.heardCurrency),
    },
    {
      name: 'currency heard',
      means: 'of the amount before',
      unit: code,
      of: (line) => (line.heardAmount === null ? '' : line.heardCurrency),
    },
    { name: 'our state', means: 'as your postbacks have it', unit: '', of: (line) => line.ourState },
    {
      name: 'by terms',
      means: 'what the terms come to, where your postback brought no amount',
      unit: decimal,
      of: (line) => amount(line.termsAmount, line.termsCurrency),
    },
    {
      name: 'currency of terms',
      means: 'of the amount before',
      unit: code,
      of: (line) => line.termsCurrency,
    },
    { name: 'terms', means: 'of the program on that day', unit: '', of: (line) => line.terms },
    {
      name: 'you report',
      means: 'the amount in your report; empty where it is not listed',
      unit: decimal,
      of: (line) => amount(line.theirAmount, line.theirCurrency),
    },
    {
      name: 'currency reported',
      means: 'of the amount before',
      unit: code,
      of: (line) => line.theirCurrency,
    },
    { name: 'your state', means: 'as your report has it', unit: '', of: (line) => line.theirState },
    { name: 'your report', means: 'name of the file', unit: '', of: (line) => line.report?.file ?? '' },
    {
      name: 'line in it',
      means: 'of the file, its first line being 1',
      unit: 'number',
      of: (line) => text(line.report?.line),
    },
    {
      name: 'claimed',
      means: 'what is missing by our record',
      unit: decimal,
      of: (line) => amount(line.claimed, line.claimedCurrency),
    },
    {
      name: 'currency claimed',
      means: 'of the amount before',
      unit: code,
      of: (line) => line.claimedCurrency,
    },
    {
      name: 'day',
      means: 'on which clicks differ',
      unit: `day in ${zone}`,
      of: (line) => line.clicks?.day ?? '',
    },
    {
      name: 'label',
      means: 'of your report of clicks; empty for the whole account',
      unit: '',
      of: (line) => line.clicks?.label ?? '',
    },
    {
      name: 'our clicks',
      means: 'counted by us that day: no bots, tests, prefetches or repeats',
      unit: 'number',
      of: (line) => text(line.clicks?.ours),
    },
    {
      name: 'your clicks',
      means: 'as your report has them',
      unit: 'number',
      of: (line) => text(line.clicks?.theirs),
    },
    {
      name: 'unverified',
      means: 'why the sender of the postback is not certain; empty where it is',
      unit: '',
      of: (line) => line.unverified,
    },
    {
      name: 'records',
      means: 'numbers of the postbacks in our journal, in the folder evidence as they came',
      unit: 'numbers',
      of: (line) => line.postbacks.map(({ record }) => record).join(' '),
    },
    { name: answerColumns.answer, means: 'accepted, refused or in part', unit: '', of: () => '' },
    { name: answerColumns.amount, means: 'where you accept a part', unit: decimal, of: () => '' },
    { name: answerColumns.reason, means: 'where you refuse, or accept a part', unit: '', of: () => '' },
  ];
};
