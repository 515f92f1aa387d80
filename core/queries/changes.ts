import { dayIn } from '#core/hop';
import { daysOf, holdsAt } from '#core/traffic';
import type { RecordVersion } from '#core/visits';
import type { Dataset } from './dataset.ts';
import type { TrafficQuestion } from './traffic.ts';
import { dimensionsOf } from './trafficDimensions.ts';

/** Something that was changed and that figures of its day may come from. */
export interface ChangeOfDay {
  /** In the person's own zone, `2026-10-24`. */
  readonly day: string;
  readonly kind: 'destination' | 'archived' | 'back' | 'rules';
  /** The links it was done to, each once; none of `rules`. */
  readonly links: readonly string[];
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

/** Whether a link is among those that are asked for, by what of a question is known of links alone. */
const linkFits = (data: Dataset, where: TrafficQuestion['where']) => {
  const ofLinks = new Set<string>(['link', 'network', 'program', 'group', 'tags']);
  const dimension = dimensionsOf(data);
  const conditions = where
    .filter(({ of }) => ofLinks.has(of))
    .map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  return (link: string) => conditions.every((condition) => holdsAt(condition, condition.of.ofLink(link, '')));
};

/**
 * What was changed on the days of a question and may have moved its figures: where links lead, links archived and brought back, the
 * rules by which requests are counted. Each kind once a day, the earliest first.
 */
export const changesOfDays = (
  data: Dataset,
  { from, to, where }: Pick<TrafficQuestion, 'from' | 'to' | 'where'>,
): ChangeOfDay[] => {
  const { starts, names } = daysOf(data.zone, from, to);
  const [first, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const fits = linkFits(data, where);
  const found = new Map<string, { day: string; kind: ChangeOfDay['kind']; links: Set<string> }>();
  for (const [record, versions] of data.journal.versions) {
    const isLink = record.startsWith('lnk_');
    if (record !== 'settings' && !(isLink && fits(record))) continue;
    for (const [i, version] of versions.entries()) {
      const before = versions[i - 1];
      if (!before || version.at < first || version.at >= until) continue;
      for (const kind of kindsOf(record, before, version)) {
        const day = dayIn(data.zone, version.at);
        const name = `${day} ${kind}`;
        const known = found.get(name) ?? { day, kind, links: new Set<string>() };
        if (isLink) known.links.add(record);
        found.set(name, known);
      }
    }
  }
  return [...found.values()]
    .map(({ links, ...rest }) => ({ ...rest, links: [...links] }))
    .toSorted((a, b) => (`${a.day} ${a.kind}` < `${b.day} ${b.kind}` ? -1 : 1));
};
