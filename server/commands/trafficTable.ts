import { element } from '#core/catalogue';
import { epcOf } from '#core/figures';
import { dayBefore } from '#core/hop';
import type { Traffic, TrafficFigures, TrafficQuestion } from '#core/queries';
import { answersFrom, requestForms } from '#core/queries';
import type { Sum } from '#core/values';
import { writeAmount } from '#core/values';
import type { QuestionOptions } from './question.ts';
import { questionOf } from './question.ts';

/**
 * Traffic of a data folder: the same question as the application's, asked of the same data.
 *
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const trafficOf = async (
  options: QuestionOptions,
): Promise<{ readonly question: TrafficQuestion; readonly traffic: Traffic }> => {
  const { question, data } = await questionOf(options);
  return { question, traffic: answersFrom(data).traffic(question) };
};

/**
 * The requests behind the traffic of a data folder.
 *
 * @param path the file they are for: its ending says in which form
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const requestsOf = async (options: QuestionOptions, path: string): Promise<Uint8Array> => {
  const form = requestForms.find((one) => path.endsWith(`.${one}`));
  if (form === undefined)
    throw new Error(`${path} is no file of ${requestForms.map((one) => `.${one}`).join(' or ')}.`);
  const { question, data } = await questionOf(options);
  return answersFrom(data).requestFile(question, form);
};

const sum = (list: readonly number[]): number => list.reduce((total, each) => total + each, 0);

const heads = ['visitors', 'visits', 'change', 'repeats', 'bots', 'conv.', 'commission', 'EPC'];

/** The change of counted visits against the period before, as `+12 %`, with `*` where it is more than chance. */
const changeWords = ({ days, daysBefore, changed }: TrafficFigures, isCompared: boolean): string => {
  if (!isCompared) return '';
  const [now, before] = [sum(days), sum(daysBefore)];
  if (before === 0) return now === 0 ? '' : 'new';
  const percent = Math.round((now / before - 1) * 100);
  return `${percent > 0 ? '+' : ''}${percent} %${changed ? ' *' : ''}`;
};

const written = (list: readonly Sum[]): string =>
  list.map(({ currency, minor }) => `${writeAmount(minor, currency)} ${currency}`).join(' + ');

const cellsOf = (figures: TrafficFigures, isCompared: boolean, hasCosts: boolean): string[] => {
  const { requests, visitors, onward, states, commission, passedCost, costsUnread } = figures;
  const earned = commission.filter(({ minor }) => minor !== 0);
  return [
    String(visitors),
    String(requests.counted),
    changeWords(figures, isCompared),
    String(requests.repeat),
    String(requests.bot),
    String(states.pending + states.approved + states.paid),
    written(earned),
    // Currencies are never added.
    earned
      .flatMap(({ currency, minor }) => {
        const epc = epcOf(minor, requests.counted - onward);
        return epc === undefined ? [] : [`${writeAmount(Math.round(epc), currency)} ${currency}`];
      })
      .join(' + '),
    ...(hasCosts ? [`${written(passedCost)}${costsUnread > 0 ? ` (${costsUnread} not readable)` : ''}`] : []),
  ];
};

/** Traffic as a table for a terminal. */
export const trafficTable = ({ by, from, to }: TrafficQuestion, traffic: Traffic): string => {
  const isCompared = traffic.knownSince === undefined;
  const { passedCost, costsUnread } = traffic.whole;
  const hasCosts = passedCost.length > 0 || costsUnread > 0;
  const titles = hasCosts ? [...heads, 'cost'] : heads;
  const rows = [
    [by, ...titles],
    ...traffic.lines.map((line) => [
      line.value === '' ? '(none)' : line.value,
      ...cellsOf(line, isCompared, hasCosts),
    ]),
    ['all', ...cellsOf(traffic.whole, isCompared, hasCosts)],
  ];
  const widths = titles.map((_, i) => Math.max(...rows.map((row) => element(row[i + 1]).length)));
  const first = Math.max(...rows.map((row) => element(row[0]).length));
  const { test, prefetch, 'not redirected': refused } = traffic.whole.requests;
  return [
    `Visitors by ${by}, ${from} to ${to}, ${
      isCompared
        ? `against the ${traffic.days.length} days before`
        : `known since ${traffic.knownSince}: nothing to compare with`
    }`,
    ...rows.map(([name = '', ...cells]) =>
      [name.padEnd(first), ...cells.map((cell, i) => cell.padStart(element(widths[i])))].join('  ').trimEnd(),
    ),
    `Besides: ${test} tests, ${prefetch} prefetches, ${refused} not redirected. * is more than chance.`,
    ...(traffic.rolledUpBefore === undefined
      ? []
      : [
          `Requests up to ${dayBefore(traffic.rolledUpBefore)} were rolled up by day: how many visitors made them is not known.`,
        ]),
    '',
  ].join('\n');
};
