import type { Branch, Conditions } from '#core/catalogue';
import { describeConditions, sameConditions, testOf } from './conditions.ts';
import { countriesIn, countryGroups } from './countries.ts';
import type { VisitorSample } from './simulate.ts';
import { wallClock } from './zone.ts';

/** Something about a branch that its maker most likely did not mean. */
export interface BranchWarning {
  readonly branch: string;
  /** A plain sentence. */
  readonly words: string;
}

const regions = new Intl.DisplayNames('en', { type: 'region', fallback: 'none' });

/** What is wrong with a country as it was typed; undefined for a code of ISO 3166-1 or a group of ours. */
const countryProblem = (code: string): string | undefined => {
  if (Object.hasOwn(countryGroups, code)) return undefined;
  const canonical = /^[A-Z]{2}$/.test(code) ? new Intl.Locale(`und-${code}`).region : undefined;
  if (canonical !== undefined && canonical !== code)
    return `“${code}” is no country code; ${canonical} is the one for ${regions.of(canonical) ?? canonical}.`;
  return canonical === undefined || regions.of(code) === undefined
    ? `“${code}” is no country: nobody comes from there.`
    : undefined;
};

const isWithin = (inner: readonly unknown[], outer: readonly unknown[]): boolean =>
  inner.every((value) => outer.includes(value));

/**
 * True where both speak of the same clock: what is after midnight of an overnight span belongs to the day before, so a weekday
 * means another day with it than without.
 */
const haveOneClock = (outer: Conditions, inner: Conditions): boolean =>
  (outer.hours ?? outer.weekdays ?? outer.days) === undefined ||
  (outer.zone === inner.zone && JSON.stringify(outer.hours) === JSON.stringify(inner.hours));

/** True where every visitor for whom the inner conditions hold is one for whom the outer hold too, as far as can be told. */
const covers = (outer: Conditions, inner: Conditions): boolean =>
  haveOneClock(outer, inner) &&
  Object.entries(outer).every(([name, value]) => {
    const other = inner[name as keyof Conditions]; // a name of one of them
    if (other === undefined) return false;
    if (name === 'countries')
      return isWithin([...countriesIn(inner.countries ?? [])], [...countriesIn(outer.countries ?? [])]);
    if (name === 'languages')
      return (inner.languages ?? []).every((tag) =>
        (outer.languages ?? []).some((range) =>
          `${tag}-`.toLowerCase().startsWith(`${range}-`.toLowerCase()),
        ),
      );
    if (Array.isArray(value) && Array.isArray(other)) return isWithin(other, value);
    return JSON.stringify(value) === JSON.stringify(other);
  });

/** Fewer visitors than these tell nothing of those to come. */
const fewVisitors = 30;
/** Conditions that are held, one by one, against visitors that came. */
const seenKinds = ['countries', 'devices', 'languages', 'sources'] as const;

/**
 * What to say of the branches of a split where they are entered: a country that is none, a stretch of days that is over, a
 * branch that nobody reaches since an earlier one takes all its visitors, and conditions for which none of the visitors fits
 * that came.
 *
 * @param now milliseconds since 1970 UTC
 * @param visitors real ones; none where few came
 */
export const branchWarnings = (
  branches: readonly Branch[],
  zone: string,
  now: number,
  visitors: readonly VisitorSample[],
): BranchWarning[] =>
  branches.flatMap(({ id, when }, i) => {
    const words: string[] = (when.countries ?? []).flatMap((code) => countryProblem(code) ?? []);
    const today = wallClock(when.zone ?? zone, now).day;
    if (when.days?.until !== undefined && when.days.until < today)
      words.push(`It ended on ${when.days.until}: nobody comes here any more.`);
    const earlier = branches
      .slice(0, i)
      .findIndex((other) => !sameConditions(other.when, when) && covers(other.when, when));
    if (earlier >= 0)
      words.push(
        Object.keys(branches[earlier]?.when ?? {}).length === 0
          ? `Nobody comes here: branch ${earlier + 1} asks for nothing, so it takes everyone before. Move this one up.`
          : `Nobody comes here: branch ${earlier + 1} takes all of its visitors before. Move this one up.`,
      );
    if (words.length === 0 && visitors.length >= fewVisitors)
      for (const kind of seenKinds) {
        const one: Conditions = { [kind]: when[kind] };
        if (when[kind] === undefined) continue;
        const test = testOf(one, zone);
        if (visitors.every((visitor) => test({ ...visitor, query: '', visitor: '' }) !== undefined))
          words.push(
            `None of the last ${visitors.length} visitors would have come here: ${describeConditions(one)}.`,
          );
      }
    return words.map((text) => ({ branch: id, words: text }));
  });
