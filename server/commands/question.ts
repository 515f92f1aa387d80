import { dayIn, dayName, dayNumber } from '#core/hop';
import type { Dataset, TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames, mostDays } from '#core/traffic';
import { openDataset } from '../dataFolder.ts';

/** The arguments that ask a question, as `parseArgs` takes them. */
export const questionArguments = {
  data: { type: 'string', default: './data' },
  by: { type: 'string', default: 'source' },
  from: { type: 'string' },
  to: { type: 'string' },
  where: { type: 'string', multiple: true, default: [] as string[] },
  json: { type: 'boolean', default: false },
} as const satisfies Record<string, object>;

/** What is asked of a data folder by the arguments of a command. */
export interface QuestionOptions {
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

const dimensionNamed = (name: string): DimensionName => {
  const found = dimensionNames.find((one) => one === name);
  if (found === undefined)
    throw new Error(
      `${name} is nothing that visits are told apart by. Known are ${dimensionNames.join(', ')}.`,
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

/**
 * The question that arguments ask of a data folder, and its data.
 *
 * @throws Error with one clear line when something is missing or cannot be read
 */
export const questionOf = async (
  options: QuestionOptions,
  usualDays = 30,
): Promise<{
  readonly question: Pick<TrafficQuestion, 'by' | 'from' | 'to' | 'where'>;
  readonly data: Dataset;
}> => {
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
  return { question: { by, from, to, where }, data };
};
