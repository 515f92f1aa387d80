import { element } from '#core/catalogue';
import { epcOf } from '#core/figures';
import { dayBefore, dayIn, dayName, dayNumber } from '#core/hop';
import type { Answers, Traffic, TrafficFigures, TrafficQuestion } from '#core/queries';
import { answersFrom, requestForms } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames, mostDays } from '#core/traffic';
import type { Sum } from '#core/values';
import { writeAmount } from '#core/values';
import { openDataset } from '../dataFolder.ts';

export interface TrafficOptions {
  readonly data: string;
  readonly by: string;
  /** First and last day; the last thirty where none is given. */
  readonly from?: string | undefined;
  readonly to?: string | undefined;
  /** Such as `device=phone` and `source!=flyer`; several of one dimension mean any of them. */
  readonly where: readonly string[];
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

const usualDays = 30;

const dimensionNamed = (name: string): DimensionName => {
  const found = dimensionNames.find((one) => one === name);
  if (found === undefined)
    throw new Error(
      `${name} is nothing that traffic is told apart by. Known are ${dimensionNames.join(', ')}.`,
    );
  return found;
};

const dayGiven = (text: string, what: string): string => {
  const isDay = /^\d{4}-\d{2}-\d{2}$/.test(text) && dayName(dayNumber(text)) === text;
  if (!isDay) throw new Error(`${what} ${text} is no day such as 2026-10-24.`);
  return text;
};

/** Conditions as they are written in arguments, those of one dimension together. */
const conditionsOf = (where: readonly string[]): TrafficQuestion['where'] => {
  const found = new Map<string, { of: DimensionName; not: boolean; values: string[] }>();
  for (const text of where) {
    const [, name = '', sign = '', value = ''] = /^([a-z]+)(!?=)(.*)$/s.exec(text) ?? [];
    if (name === '')
      throw new Error(`${text} is no condition. One is written as device=phone, or device!=phone.`);
    const known = found.get(name + sign);
    if (known) known.values.push(value);
    else found.set(name + sign, { of: dimensionNamed(name), not: sign === '!=', values: [value] });
  }
  return [...found.values()];
};

/** What is asked of a data folder by arguments, and its data. */
const askedOf = async (
  options: TrafficOptions,
): Promise<{ readonly question: TrafficQuestion; readonly answers: Answers }> => {
  const by = dimensionNamed(options.by);
  const where = conditionsOf(options.where);
  const [first, last] = [options.from, options.to];
  if (first !== undefined) dayGiven(first, '--from');
  if (last !== undefined) dayGiven(last, '--to');
  const data = await openDataset(options.data);
  const to = last ?? dayIn(data.zone, options.now);
  const from = first ?? dayName(dayNumber(to) - usualDays + 1);
  if (from > to) throw new Error(`--from ${from} lies after --to ${to}.`);
  if (dayNumber(to) - dayNumber(from) >= mostDays)
    throw new Error(`${from} to ${to} are more than ${mostDays} days. Ask for fewer at once.`);
  return { question: { by, from, to, where }, answers: answersFrom(data) };
};

/**
 * Traffic of a data folder: the same question as the application's, asked of the same data.
 *
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const trafficOf = async (
  options: TrafficOptions,
): Promise<{ readonly question: TrafficQuestion; readonly traffic: Traffic }> => {
  const { question, answers } = await askedOf(options);
  return { question, traffic: answers.traffic(question) };
};

/**
 * The requests behind the traffic of a data folder.
 *
 * @param path the file they are for: its ending says in which form
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const requestsOf = async (options: TrafficOptions, path: string): Promise<Uint8Array> => {
  const form = requestForms.find((one) => path.endsWith(`.${one}`));
  if (form === undefined)
    throw new Error(`${path} is no file of ${requestForms.map((one) => `.${one}`).join(' or ')}.`);
  const { question, answers } = await askedOf(options);
  return answers.requestFile(question, form);
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
