import type { Link } from '#core/catalogue';
import { dayIn, openingOf } from '#core/hop';
import { daysOf, holdsAt } from '#core/traffic';
import type { RecordVersion } from '#core/visits';
import type { Dataset } from './dataset.ts';
import { mailingsOfDays } from './mailings.ts';
import type { TrafficQuestion } from './traffic.ts';
import { dimensionsOf } from './trafficDimensions.ts';

/** Something that was changed or happened and that figures of its day may come from. */
export interface ChangeOfDay {
  /** In the person's own zone, `2026-10-24`. */
  readonly day: string;
  readonly kind: 'destination' | 'archived' | 'back' | 'rules' | 'opened' | 'closed' | 'mailing';
  /** The links it was done to, each once; none of `rules` and `mailing`. */
  readonly links: readonly string[];
  /** The sources whose mailing was sent. */
  readonly sources: readonly string[];
}

/** Fields of a version as texts to compare; empty where it has none of them. */
const said = (value: object | null, names: readonly string[]): string => {
  const fields = Object.entries(value ?? {}).filter(([name]) => names.includes(name));
  return fields.length === 0 ? '' : JSON.stringify(fields.toSorted((a, b) => (a[0] < b[0] ? -1 : 1)));
};
/** What of a link where it leads rests on. */
const leads = ['destination', 'branches', 'weight'];

const kindsOf = (
  record: string,
  { value: before }: RecordVersion,
  { value: after }: RecordVersion,
): ChangeOfDay['kind'][] => {
  if (before === null || after === null) return [];
  const differs = (names: readonly string[]) => said(before, names) !== said(after, names);
  if (record === 'settings') return differs(['classification']) ? ['rules'] : [];
  const archived = differs(['archived'])
    ? ([said(after, ['archived']) === '' ? 'back' : 'archived'] as const)
    : [];
  return [...(differs(leads) ? (['destination'] as const) : []), ...archived];
};

/** When a link opened and closed by its hours, as each version of it had them while it was in force. */
const turnsOf = (
  { records, zone }: Dataset,
  versions: readonly RecordVersion[],
  now: number,
): { readonly kind: 'opened' | 'closed'; readonly at: number }[] =>
  versions.flatMap(({ at, value }, i) => {
    if (value === null) return [];
    const { hours, domain: id } = value as Pick<Link, 'hours' | 'domain'>; // as the catalogue had it
    const domain = records.domains.find((one) => one.id === id) ?? { zone };
    const { opens, closes } = (hours && openingOf({ hours }, domain, now)) ?? {};
    const until = Math.min(versions[i + 1]?.at ?? Infinity, now);
    const isThen = (moment: number | undefined): moment is number =>
      moment !== undefined && moment >= at && moment < until;
    return [
      ...(isThen(opens) ? [{ kind: 'opened' as const, at: opens }] : []),
      ...(isThen(closes) ? [{ kind: 'closed' as const, at: closes }] : []),
    ];
  });

/** Whether a link is among those that are asked for, by what of a question is known of links alone. */
const linkFits = (data: Dataset, where: TrafficQuestion['where']) => {
  const ofLinks = new Set<string>(['link', 'network', 'program', 'group', 'tags']);
  const dimension = dimensionsOf(data);
  const conditions = where
    .filter(({ of }) => ofLinks.has(of))
    .map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  return (link: string) =>
    conditions.every((condition) => holdsAt(condition, condition.of.ofLink(link, '', '')));
};

/**
 * What was changed or happened on the days of a question and may have moved its figures: where links lead, links archived and brought
 * back, links that opened and closed, mailings as far as visits tell, the rules by which requests are counted. Each kind once a day, the
 * earliest first.
 *
 * @param question with `now`, milliseconds since 1970 UTC: what lies after it did not happen yet
 */
export const changesOfDays = (
  data: Dataset,
  { from, to, where, now }: Pick<TrafficQuestion, 'from' | 'to' | 'where'> & { readonly now: number },
): ChangeOfDay[] => {
  const { starts, names } = daysOf(data.zone, from, to);
  const [first, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const fits = linkFits(data, where);
  const found = new Map<
    string,
    { day: string; kind: ChangeOfDay['kind']; links: Set<string>; sources: Set<string> }
  >();
  const note = (kind: ChangeOfDay['kind'], day: string) => {
    const name = `${day} ${kind}`;
    const known = found.get(name) ?? { day, kind, links: new Set<string>(), sources: new Set<string>() };
    found.set(name, known);
    return known;
  };
  for (const [record, versions] of data.journal.versions) {
    const isLink = record.startsWith('lnk_');
    if (record !== 'settings' && !(isLink && fits(record))) continue;
    for (const [i, version] of versions.entries()) {
      const before = versions[i - 1];
      if (!before || version.at < first || version.at >= until) continue;
      for (const kind of kindsOf(record, before, version)) {
        const change = note(kind, dayIn(data.zone, version.at));
        if (isLink) change.links.add(record);
      }
    }
    if (!isLink) continue;
    for (const { kind, at } of turnsOf(data, versions, now))
      if (at >= first && at < until) note(kind, dayIn(data.zone, at)).links.add(record);
  }
  const ofSources = where.filter(({ of }) => of === 'source');
  for (const { day, source } of mailingsOfDays(data, { from, to }, ofSources))
    note('mailing', day).sources.add(source);
  return [...found.values()]
    .map(({ links, sources, ...rest }) => ({ ...rest, links: [...links], sources: [...sources] }))
    .toSorted((a, b) => (`${a.day} ${a.kind}` < `${b.day} ${b.kind}` ? -1 : 1));
};
