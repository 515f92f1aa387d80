import type { ClickRow, Link, Network, Program } from '#core/catalogue';
import { addTo, element, pushTo } from '#core/catalogue';
import { calendarDay, dayNumber } from '#core/hop';
import type { Classification, DailyCount, TraceRecord, VisitColumns } from '#core/visits';
import { outcomeNumber } from '#core/visits';
import type { Case } from './cases.ts';
import { caseId } from './cases.ts';

/** What a difference of clicks has to exceed to be worth a conversation (standard terms of the trade, from memory). */
export const worthTalking = 0.1;
/** Fewer clicks than this on a day say nothing by their share. */
const fewestClicks = 20;

/** True where the clicks of a day differ by more than a tenth, and are enough to say so. */
export const isApart = (ours: number, theirs: number): boolean =>
  Math.max(ours, theirs) >= fewestClicks && Math.abs(theirs - ours) > worthTalking * Math.max(ours, theirs);

/** Clicks of one day as both sides count them, of a whole account or of what a label names. */
export interface ClickDifference {
  /** In the network's zone, `2026-10-24`. */
  readonly day: string;
  /** As their report has it; empty for the whole account. */
  readonly label: string;
  readonly ours: number;
  readonly theirs: number;
}

export interface ClickCasesInput {
  readonly columns: VisitColumns;
  readonly classification: Classification;
  readonly rolledUp?: readonly DailyCount[];
  readonly traces?: readonly TraceRecord[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly (Pick<Link, 'id' | 'network' | 'program'> & { readonly slug?: string })[];
  /** The clicks that networks counted, as their reports state them. */
  readonly reported: Iterable<ClickRow & { readonly network: string }>;
}

/** What a label of a report names: a program by its name or code, a link by its slug or ID, else a source. */
interface Labels {
  readonly zone: string;
  /** Number of the label by what it names. */
  readonly whole: number | undefined;
  readonly program: ReadonlyMap<string, number>;
  readonly link: ReadonlyMap<string, number>;
  readonly source: ReadonlyMap<string, number>;
}

/**
 * Days, and labels of days, on which a network's clicks and ours differ by more than a tenth: a case each, to ask or to write off.
 * A day that is reported by labels is compared by them. One pass over the requests, and none where no network reports clicks.
 */
export const clickCases = (input: ClickCasesInput): Case[] => {
  const { columns, classification, networks, programs, links } = input;
  const rowsOf = new Map<string, (ClickRow & { readonly network: string })[]>();
  for (const row of input.reported) pushTo(rowsOf, row.network, row);
  if (rowsOf.size === 0) return [];

  /** Our clicks by number of the label, and within by day. */
  const counts: Map<number, number>[] = [];
  const numberOf = new Map<string, number>();
  const labelsOf = new Map<string, Labels>();
  for (const [id, rows] of rowsOf) {
    const [program, link, source] = [
      new Map<string, number>(),
      new Map<string, number>(),
      new Map<string, number>(),
    ];
    let whole: number | undefined;
    for (const { label } of rows) {
      const key = `${id} ${label}`;
      if (numberOf.has(key)) continue;
      const number = counts.push(new Map()) - 1;
      numberOf.set(key, number);
      const named = label.toLowerCase();
      const isNamed = (name: string | undefined) => name?.toLowerCase() === named;
      const ofPrograms = programs.filter(
        (one) => one.network === id && (isNamed(one.name) || isNamed(one.code)),
      );
      const ofLinks = links.filter((one) => one.network === id && (isNamed(one.slug) || isNamed(one.id)));
      if (label === '') whole = number;
      else if (ofPrograms.length > 0) for (const one of ofPrograms) program.set(one.id, number);
      else if (ofLinks.length > 0) for (const one of ofLinks) link.set(one.id, number);
      else source.set(label, number);
    }
    const zone = networks.find((one) => one.id === id)?.zone ?? 'UTC';
    labelsOf.set(id, { zone, whole, program, link, source });
  }

  const linkById = new Map(links.map((link) => [link.id, link]));
  /** What counts for a link: its network's labels, and the numbers of those that hold for the link itself. */
  const ofLink = (id: string) => {
    const link = linkById.get(id);
    const labels = link && labelsOf.get(link.network ?? '');
    return (
      labels && {
        labels,
        numbers: [labels.whole, labels.program.get(link.program ?? ''), labels.link.get(id)].filter(
          (number) => number !== undefined,
        ),
      }
    );
  };
  const add = (found: ReturnType<typeof ofLink>, source: string, day: number, times: number) => {
    if (!found) return;
    for (const number of found.numbers) addTo(element(counts[number]), day, times);
    const number = source === '' ? undefined : found.labels.source.get(source);
    if (number !== undefined) addTo(element(counts[number]), day, times);
  };

  const byPlace = columns.dictionaries.link.texts.map(ofLink);
  const sources = columns.dictionaries.source.texts;
  for (const [n, segment] of columns.segments.entries()) {
    const found = element(classification.outcomes[n]);
    for (let i = 0; i < segment.rows; i++) {
      if (found[i] !== outcomeNumber.counted) continue;
      const link = byPlace[element(segment.link[i])];
      if (link)
        add(
          link,
          element(sources[element(segment.source[i])]),
          calendarDay(link.labels.zone, element(segment.at[i])),
          1,
        );
    }
  }
  for (const daily of input.rolledUp ?? [])
    if (daily.outcome === 'counted')
      add(ofLink(daily.link), daily.source, dayNumber(daily.theirDay), daily.count);
  // The nightly check asks the shop alone, so no network takes it for a click.
  for (const { at, by, link } of input.traces ?? []) {
    const found = by === 'person' ? ofLink(link) : undefined;
    if (found) add(found, '', calendarDay(found.labels.zone, at), 1);
  }

  const cases: Case[] = [];
  for (const [id, rows] of rowsOf) {
    const labelled = new Set(rows.flatMap(({ day, label }) => (label === '' ? [] : [day])));
    const { currency = 'EUR' } = networks.find((one) => one.id === id) ?? {};
    for (const { day, label, clicks: theirs } of rows) {
      if (label === '' && labelled.has(day)) continue;
      const ours = counts[element(numberOf.get(`${id} ${label}`))]?.get(dayNumber(day)) ?? 0;
      if (!isApart(ours, theirs)) continue;
      cases.push({
        id: caseId('clicks differ', `${id} ${day} ${label}`.trim()),
        kind: 'clicks differ',
        unit: '',
        clicks: { day, label, ours, theirs },
        network: id,
        month: day.slice(0, 7),
        at: dayNumber(day) * 86_400_000,
        worth: 0,
        currency,
        because: `On ${day} we counted ${ours} clicks${label === '' ? '' : ` of ${label}`} and they ${theirs}: more than a tenth apart.`,
        proposal: { does: 'Ask the network what it counts', safe: false, as: 'ask' },
      });
    }
  }
  return cases;
};
