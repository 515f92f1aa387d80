import { element } from '#core/catalogue';
import type { Pays, PaysFigures, PaysQuestion } from '#core/queries';
import { answersFrom } from '#core/queries';
import { exponentOf, writeAmount } from '#core/values';
import { catalogueOf } from '../dataFolder.ts';
import type { QuestionOptions } from './question.ts';
import { questionOf } from './question.ts';

/** A season: what visits left is known after some weeks. */
const usualDays = 90;

/**
 * What visits of a data folder cost and earned, and what is to be done: the same question as the application's, asked of the same data.
 *
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const decisionsOf = async (
  options: QuestionOptions,
): Promise<{ readonly question: PaysQuestion; readonly pays: Pays }> => {
  const { question, data } = await questionOf(options, usualDays);
  const currency = catalogueOf(options.data).all('settings')[0]?.currency ?? 'EUR';
  const asked = { ...question, currency, now: options.now };
  return { question: asked, pays: answersFrom(data).whatPays(asked) };
};

/** Whether something is to be cut. */
export const saysCut = ({ lines }: Pays): boolean => lines.some(({ verdict }) => verdict === 'cut');

/** What a visitor leaves, with one decimal more than the currency has. */
const each = (minor: number, currency: string): string => {
  const places = exponentOf(currency);
  return (minor / 10 ** places).toFixed(places + 1);
};

/** Why a verdict is what it is. */
const reasonOf = (
  { verdict, band, needed, evidence, ripe, visitors, paidUntil }: PaysFigures,
  currency: string,
): string => {
  const [low, high, loss] = band
    ? [each(band.low, currency), each(band.high, currency), each(-band.high, currency)]
    : ['', '', ''];
  switch (verdict) {
    case 'cut':
      return `at best it loses ${loss} a visitor`;
    case 'scale':
      return `at worst it earns ${low} a visitor`;
    case 'keep testing':
      return needed === undefined || needed.fewest === Infinity
        ? 'it may break even'
        : needed.most === Infinity
          ? `at least ${needed.fewest} more visitors`
          : `${needed.fewest} to ${needed.most} more visitors`;
    case 'wait':
      if (paidUntil !== undefined && band && band.high < 0)
        return `it loses so far, but was paid for visits until ${paidUntil}`;
      return evidence && ripe / visitors < 0.5
        ? 'less than half of its sales have usually come by now'
        : 'too few sales are known to say what one pays';
    case 'no cost':
      return band ? `earns ${low} to ${high} a visitor` : '';
    case 'no visitors':
      return 'nobody came';
    case 'no rate':
      return 'part of its money is in a currency of which no rate is given';
  }
};

const heads = ['cost', 'visitors', 'sales', 'earned', 'profit', 'a visitor'];

/** Of what is partly in a currency without a rate only so much is known. */
const cellsOf = (figures: PaysFigures, currency: string): string[] => {
  const { cost, visitors, conversions, approved, worth, profit, band, verdict } = figures;
  const known = verdict !== 'no rate';
  return [
    writeAmount(cost, currency),
    String(visitors),
    String(conversions),
    `${writeAmount(approved + worth, currency)}${known ? '' : ' + ?'}`,
    known ? `${profit > 0 ? '+' : ''}${writeAmount(profit, currency)}` : '?',
    band ? `${each(band.low, currency)} to ${each(band.high, currency)}` : '',
  ];
};

/** What pays as a table for a terminal. */
export const decideTable = (
  { by, from, to, currency }: PaysQuestion,
  { whole, lines, missing, alone, overlaps, unread }: Pays,
): string => {
  const rows = [
    [by, ...heads, 'verdict'],
    ...lines.map((line) => [
      line.value === '' ? '(none)' : line.value,
      ...cellsOf(line, currency),
      `${line.verdict}: ${reasonOf(line, currency)}`,
    ]),
    ['all', ...cellsOf(whole, currency), ''],
  ];
  const widths = heads.map((_, i) => Math.max(...rows.map((row) => element(row[i + 1]).length)));
  const first = Math.max(...rows.map((row) => element(row[0]).length));
  const written = rows.map(([name = '', ...cells]) =>
    [
      name.padEnd(first),
      ...cells.map((cell, i) => (i < heads.length ? cell.padStart(element(widths[i])) : cell)),
    ]
      .join('  ')
      .trimEnd(),
  );
  const some = (list: readonly unknown[], one: string, many: string): string[] =>
    list.length === 0 ? [] : [`${list.length} ${list.length === 1 ? one : many}`];
  return [
    `What visits of ${from} to ${to} cost and earned, by ${by}, in ${currency}`,
    ...written,
    `Earned is what is approved, and what is pending at its worth (${writeAmount(whole.worth, currency)} of ${writeAmount(whole.pending, currency)}). Bands hold however often you look (95 %).`,
    ...missing.map(
      (one) => `No rate of ${one.currency} up to ${one.day} is given: its money is in no figure here.`,
    ),
    ...some(
      alone,
      'part of a cost found no visit, and is in the sums all the same.',
      'parts of costs found no visit, and are in the sums all the same.',
    ),
    ...some(
      overlaps,
      'pair of costs lies over each other: both count. Look whether one was noted twice.',
      'pairs of costs lie over each other: all count. Look whether one was noted twice.',
    ),
    ...(unread === 0 ? [] : [`${unread} requests came with a cost that cannot be read, which is in no sum.`]),
    '',
  ].join('\n');
};
