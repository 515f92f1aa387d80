import { dayNumber } from '#core/hop';
import type { TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { mostDays } from '#core/traffic';
import { outcomes } from '#core/visits';

/** What stands behind `?` in an address; the router gives one value, several, or null for one without `=`. */
export type AddressQuery = Readonly<Record<string, string | null | readonly (string | null)[] | undefined>>;

const textsOf = (value: AddressQuery[string]): string[] =>
  (Array.isArray(value)
    ? (value as readonly (string | null)[])
    : [value as string | null | undefined]
  ).filter((each): each is string => typeof each === 'string');

const dayPattern = /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])$/;

/** How conditions stand in the address: `device:phone`, several of one kind as several of them. */
const conditionsIn = (
  query: AddressQuery,
  name: 'with' | 'without',
  isDimension: (name: string) => name is DimensionName,
): TrafficQuestion['where'][number][] => {
  const found = new Map<DimensionName, string[]>();
  for (const text of textsOf(query[name])) {
    const colon = text.indexOf(':');
    const of = text.slice(0, colon);
    if (colon < 0 || !isDimension(of)) continue;
    const values = found.get(of) ?? [];
    if (!values.includes(text.slice(colon + 1))) values.push(text.slice(colon + 1));
    found.set(of, values);
  }
  return [...found].map(([of, values]) => ({ of, values, ...(name === 'without' && { not: true }) }));
};

/**
 * Reads a question from an address. What is no part of one is passed over, so that an old address still opens.
 *
 * @param usual first and last day where none is given, or none that can be
 */
export const questionIn = (
  query: AddressQuery,
  usual: readonly [from: string, to: string],
  isDimension: (name: string) => name is DimensionName,
): TrafficQuestion => {
  const [by = ''] = textsOf(query['by']);
  const [from = ''] = textsOf(query['from']);
  const [to = ''] = textsOf(query['to']);
  const [shown = ''] = textsOf(query['show']);
  const show = outcomes.find((one) => one === shown && one !== 'counted');
  const isPeriod =
    dayPattern.test(from) && dayPattern.test(to) && from <= to && dayNumber(to) - dayNumber(from) < mostDays;
  return {
    by: isDimension(by) ? by : 'source',
    from: isPeriod ? from : usual[0],
    to: isPeriod ? to : usual[1],
    where: [...conditionsIn(query, 'with', isDimension), ...conditionsIn(query, 'without', isDimension)],
    ...(show && { show }),
  };
};

/** A question as it stands in an address; the usual period is not written, so that it goes with the days. */
export const addressOf = (
  { by, from, to, where, show = 'counted' }: TrafficQuestion,
  usual: readonly [from: string, to: string],
): Record<string, string | string[]> => {
  const texts = (not: boolean) =>
    where
      .filter((condition) => (condition.not ?? false) === not)
      .flatMap(({ of, values }) => values.map((value) => `${of}:${value}`));
  const [only, without] = [texts(false), texts(true)];
  return {
    by,
    ...((from !== usual[0] || to !== usual[1]) && { from, to }),
    ...(only.length > 0 && { with: only }),
    ...(without.length > 0 && { without }),
    ...(show !== 'counted' && { show }),
  };
};
