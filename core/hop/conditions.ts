import { element } from '#core/catalogue';
import type { Conditions } from '#core/catalogue';
import { dayBefore, minutesOf, wallClock } from './zone.ts';
import { countriesIn } from './countries.ts';
import type { HopRequest } from './request.ts';

/** Says why a condition does not hold for a request; undefined when it holds. */
export type Test = (request: HopRequest) => string | undefined;

const either = (words: readonly string[]): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} or ${element(words.at(-1))}`;

const weekdayNames = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const weekdayName = (weekday: number) => weekdayNames[weekday - 1] ?? String(weekday);
const clockText = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

/** RFC 4647 §3.3.1, basic filtering: a range holds for a tag it equals or that goes on after it with `-`. */
const speaks = (tag: string, range: string): boolean => {
  const [t, r] = [tag.toLowerCase(), range.toLowerCase()];
  return t === r || t.startsWith(`${r}-`);
};

const ofTime = ({ hours, weekdays, days }: Conditions, zone: string): Test[] => {
  const tests: Test[] = [];
  const from = hours ? minutesOf(hours.from) : 0;
  const until = hours ? minutesOf(hours.until) : 0;
  const overnight = hours !== undefined && until <= from;
  /** The day a moment belongs to: what is after midnight of an overnight span belongs to the evening before. */
  const clockFor = (at: number) => {
    const clock = wallClock(zone, at);
    if (!overnight || clock.minute >= until) return clock;
    return { ...clock, day: dayBefore(clock.day), weekday: clock.weekday === 1 ? 7 : clock.weekday - 1 };
  };
  if (hours)
    tests.push(({ at }) => {
      const { minute } = wallClock(zone, at);
      const holds = overnight ? minute >= from || minute < until : minute >= from && minute < until;
      return holds
        ? undefined
        : `it is from ${hours.from} to ${hours.until} in ${zone}, where it is ${clockText(minute)}`;
    });
  if (weekdays)
    tests.push(({ at }) => {
      const { weekday } = clockFor(at);
      return weekdays.includes(weekday)
        ? undefined
        : `it is for ${either(weekdays.map(weekdayName))} in ${zone}, and it is ${weekdayName(weekday)}`;
    });
  if (days)
    tests.push(({ at }) => {
      const { day } = clockFor(at);
      if (days.from !== undefined && day < days.from)
        return `it begins on ${days.from}, and it is ${day} in ${zone}`;
      if (days.until !== undefined && day > days.until)
        return `it ended on ${days.until}, and it is ${day} in ${zone}`;
      return undefined;
    });
  return tests;
};

/**
 * Makes the test of a branch's conditions; all of them have to hold.
 *
 * @param zone of hours and days where the conditions name none
 */
export const testOf = (when: Conditions, zone: string): Test => {
  const tests: Test[] = [];
  const { countries, devices, languages, sources, visitor } = when;
  if (countries) {
    const codes = countriesIn(countries);
    tests.push(({ country }) =>
      codes.has(country)
        ? undefined
        : `it is for ${either(countries)}, and the country is ${country === '' ? 'not known' : country}`,
    );
  }
  if (devices)
    tests.push(({ device }) =>
      devices.includes(device) ? undefined : `it is for ${either(devices)}, and this is a ${device}`,
    );
  if (languages)
    tests.push(({ language }) =>
      languages.some((range) => speaks(language, range))
        ? undefined
        : `it is for readers of ${either(languages)}, and the browser asks for ${language === '' ? 'no language' : language}`,
    );
  if (sources)
    tests.push(({ source }) =>
      sources.includes(source)
        ? undefined
        : `it is for the source ${either(sources)}, and the source is ${source === '' ? 'not named' : source}`,
    );
  if (visitor)
    tests.push(({ returning }) =>
      returning === (visitor === 'returning')
        ? undefined
        : `it is for ${visitor} visitors, and this one ${returning ? 'was here before' : 'is new'}`,
    );
  tests.push(...ofTime(when, when.zone ?? zone));
  return (request) => {
    for (const test of tests) {
      const because = test(request);
      if (because !== undefined) return because;
    }
    return undefined;
  };
};

/** A branch's conditions as words: `EU, phone, from 18:00 to 02:00`; empty when there are none. */
export const describeConditions = (when: Conditions): string => {
  const { countries, devices, languages, sources, visitor, weekdays, hours, days } = when;
  return [
    countries && either(countries),
    devices && either(devices),
    languages && `reads ${either(languages)}`,
    sources && `from ${either(sources)}`,
    visitor && `${visitor} visitors`,
    weekdays && either(weekdays.map(weekdayName)),
    hours && `${hours.from} to ${hours.until}`,
    days &&
      [days.from !== undefined && `since ${days.from}`, days.until !== undefined && `until ${days.until}`]
        .filter(Boolean)
        .join(' '),
  ]
    .filter(Boolean)
    .join(', ');
};

/** True when branches share by weight: their conditions are the very same. */
export const sameConditions = (a: Conditions, b: Conditions): boolean => keyOf(a) === keyOf(b);

const keyOf = (when: Conditions): string =>
  JSON.stringify(
    Object.entries(when)
      .filter(([, value]) => value !== undefined)
      .map(([name, value]) => [name, Array.isArray(value) ? [...value].sort() : value])
      .sort(([a], [b]) => (String(a) < String(b) ? -1 : 1)),
  );
