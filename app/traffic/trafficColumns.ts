import { epcOf } from '#core/figures';
import { writeTable } from '#core/formats';
import type { Traffic, TrafficFigures, TrafficQuestion } from '#core/queries';
import type { Sum } from '#core/values';
import { writeAmount } from '#core/values';
import type { Outcome } from '#core/visits';
import type { Column } from '../data/tableLook.ts';
import { amountColumn } from '../data/tableLook.ts';
import { count, perClick, percent, sums } from '../theme/formats.ts';
import { dimensionWords, outcomeWords } from './words.ts';

export type Line = Traffic['lines'][number];

const total = (list: readonly number[]): number => list.reduce((sum, each) => sum + each, 0);

/** Bots among what people and machines asked for. */
export const botShare = ({ requests }: TrafficFigures): number => {
  const all = requests.counted + requests.repeat + requests.bot;
  return all === 0 ? 0 : requests.bot / all;
};
/** A change from one count to another as a share; undefined from nothing. */
export const changeFrom = (before: number, now: number): number | undefined =>
  before === 0 ? undefined : now / before - 1;
/** A change in words: `+12%`, or `new` where nothing was before. */
export const changeWords = (by: number | undefined, now: number): string => {
  if (by === undefined) return now > 0 ? 'new' : '';
  return by.toLocaleString(undefined, {
    style: 'percent',
    signDisplay: 'exceptZero',
    maximumFractionDigits: 0,
  });
};
const conversions = ({ states }: TrafficFigures): number => states.pending + states.approved + states.paid;
/** Of each currency by itself: without a rate they are never added. */
const epc = (
  { commission, requests, onward }: TrafficFigures,
  own: (list: readonly Sum[]) => readonly Sum[] = (list) => list,
) =>
  own(commission).flatMap(({ minor, currency }) => {
    const each = epcOf(minor, requests.counted - onward);
    return each === undefined || minor === 0 ? [] : [{ each, currency }];
  });

/** A column of traffic: what is shown in a cell, and what a file has there. */
export interface TrafficColumn extends Column<Line> {
  readonly cell: (line: Line) => string;
  /** Under it, smaller. */
  readonly below?: (line: Line) => string | undefined;
  /** In a file, where that is another text. */
  readonly written?: (line: Line) => string;
}

const countColumn = (
  name: string,
  title: string,
  hint: string,
  of: (line: Line) => number,
): TrafficColumn => ({
  ...{ name, title, hint, number: true, downFirst: true, key: of },
  cell: (line) => count(of(line)),
  written: (line) => String(of(line)),
});
const outcomeColumn = (name: string, outcome: Outcome): TrafficColumn =>
  countColumn(
    name,
    outcomeWords[outcome].name,
    outcomeWords[outcome].hint,
    ({ requests }) => requests[outcome],
  );
const money = (list: readonly Sum[]): string =>
  list.map(({ minor, currency }) => `${writeAmount(minor, currency)} ${currency}`).join(' + ');

/** Columns that rest on conversions. */
const ofConversions: ReadonlySet<string> = new Set([
  ...['conversions', 'pending', 'approved', 'reversed', 'commission', 'epc'],
]);

/** The columns of a table of traffic. */
export const trafficColumns = (
  { by, show = 'counted' }: TrafficQuestion,
  valueWords: (value: string) => string,
  /** Brings sums into the person's own currency, where rates for all of them are given. */
  own: (list: readonly Sum[]) => readonly Sum[],
  /** Whether anything is known of as many days before. */
  isCompared: boolean,
  /** Whether conversions are known already. */
  hasConversions: boolean,
  /** What a click of a value earns at worst and at best, of so many clicks. */
  earnedBand: (value: string, clicks: number, currency: string | undefined) => string | undefined,
): readonly TrafficColumn[] => {
  const change = ({ days, daysBefore }: TrafficFigures) =>
    isCompared ? changeFrom(total(daysBefore), total(days)) : undefined;
  const { one, hint } = dimensionWords[by];
  const columns: TrafficColumn[] = [
    {
      name: 'value',
      title: one.replace(/^./, (letter) => letter.toUpperCase()),
      hint,
      key: ({ value }) => valueWords(value),
      cell: ({ value }) => valueWords(value),
    },
    {
      name: 'days',
      title: `${outcomeWords[show].name} by day`,
      hint: `A leaf for each day, as high as its number. ${outcomeWords[show].hint}`,
      cell: () => '',
      written: ({ days }) => days.join(' '),
    },
    ...(show === 'counted'
      ? []
      : [countColumn('shown', outcomeWords[show].name, outcomeWords[show].hint, ({ days }) => total(days))]),
    countColumn('visitors', 'Visitors', 'People, each once a day.', ({ visitors }) => visitors),
    outcomeColumn('visits', 'counted'),
    {
      name: 'change',
      title: 'Change',
      hint: `Of ${outcomeWords[show].name.toLowerCase()}, against as many days before. Bold where it is more than chance.`,
      number: true,
      downFirst: true,
      key: change,
      cell: (line) => (isCompared ? changeWords(change(line), total(line.days)) : ''),
      written: (line) => change(line)?.toFixed(4) ?? '',
    },
    {
      name: 'bots',
      title: show === 'bot' ? 'Share' : 'Bots',
      hint: 'Their share of what people and machines asked for.',
      number: true,
      downFirst: true,
      key: botShare,
      cell: (line) => percent(botShare(line)),
      written: (line) => botShare(line).toFixed(4),
    },
    outcomeColumn('repeats', 'repeat'),
    outcomeColumn('prefetches', 'prefetch'),
    outcomeColumn('refused', 'not redirected'),
    outcomeColumn('tests', 'test'),
    countColumn('conversions', 'Conv.', 'Conversions of these days that were not reversed.', conversions),
    countColumn('pending', 'Pending', 'Conversions that wait.', ({ states }) => states.pending),
    countColumn('approved', 'Approved', 'Conversions that were approved or paid.', ({ states }) => {
      return states.approved + states.paid;
    }),
    countColumn('reversed', 'Reversed', 'Conversions that were taken back.', ({ states }) => states.reversed),
    {
      ...amountColumn<Line>(
        'commission',
        'Commission',
        ({ commission }) => own(commission)[0]?.minor,
        ({ commission }) => own(commission)[0]?.currency ?? '',
      ),
      hint: 'Of conversions of these days that were not reversed, in your own currency where your rates reach.',
      cell: ({ commission }) => sums(own(commission)),
      written: ({ commission }) => money(commission),
    },
    {
      ...amountColumn<Line>(
        'epc',
        'EPC',
        (line) => epc(line, own)[0]?.each,
        (line) => epc(line, own)[0]?.currency ?? '',
      ),
      hint: 'Commission for each counted visit so far; under it what one earns at worst and at best once all has come. Who went on from a landing page of yours is one visit.',
      cell: (line) =>
        epc(line, own)
          .map(({ each, currency }) => perClick(each, currency))
          .join(' '),
      below: (line) =>
        earnedBand(line.value, line.requests.counted - line.onward, epc(line, own)[0]?.currency),
      written: (line) =>
        money(epc(line).map(({ each, currency }) => ({ minor: Math.round(each), currency }))),
    },
    {
      ...amountColumn<Line>(
        'cost',
        'Cost',
        ({ passedCost }) => own(passedCost)[0]?.minor,
        ({ passedCost }) => own(passedCost)[0]?.currency ?? '',
      ),
      hint: 'What the requests cost by what their seller passes along, repeats and bots too. Place, Sources, says in which parameter.',
      cell: ({ passedCost, costsUnread }) =>
        [sums(own(passedCost)), ...(costsUnread > 0 ? [`${count(costsUnread)} not readable`] : [])]
          .filter((text) => text !== '')
          .join(', '),
      written: ({ passedCost }) => money(passedCost),
    },
  ];
  if (hasConversions) return columns;
  return columns.map((column) =>
    ofConversions.has(column.name) ? { ...column, cell: () => '…', below: () => undefined } : column,
  );
};

/** The columns that are shown until others are chosen. */
export const usualColumns = ['value', 'days', 'shown', 'visitors', 'change', 'bots', 'conversions', 'epc'];

/** Lines as a CSV file, of the columns that are shown. */
export const trafficCsv = (columns: readonly TrafficColumn[], lines: readonly Line[]): string =>
  writeTable(
    columns.map(({ title }) => title),
    lines.map((line) => columns.map(({ cell, written = cell }) => written(line))),
  );
