import { distance } from 'fastest-levenshtein';
import { addTo, element, foldText, pushTo } from '#core/catalogue';
import { momentOf } from '#core/hop';
import { commissionOf } from '#core/figures';
import { outcomeNumber } from '#core/visits';
import type { Sum } from '#core/values';
import type { CountedUnit } from './countedUnits.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';
import { segmentsSince } from './visits.ts';

/** What came from a source, slips of its name counted with it. */
export interface SourceFigures {
  readonly source: string;
  /** Names that count as it, and how many counted visits came by each. */
  readonly slips: readonly { readonly name: string; readonly visits: number }[];
  /** Counted visits. */
  readonly visits: number;
  /** On how many links. */
  readonly links: number;
  /** When the newest came, in milliseconds since 1970 UTC. */
  readonly newest: number;
  /** Those that were not reversed. */
  readonly conversions: number;
  readonly commission: readonly Sum[];
}

/** A name that is most likely a slip of another one. */
export interface LikelySlip {
  readonly name: string;
  readonly visits: number;
  readonly of: string;
  readonly ofVisits: number;
}

/** A slip has at most this share of the visits of what it is a slip of. */
const mostShare = 0.2;
/** Shorter names differ by a letter because they are others. */
const [fewestLetters, lettersForTwo] = [5, 9];

/** Names without what people write now so and now so. */
const bare = (name: string): string => foldText(name).replace(/[-_]/g, '');
/** What numbers and single letters a name has: those of a series are no slips of each other. */
const marksOf = (name: string): string =>
  (foldText(name).match(/\d+|(?<=[-_])[a-z](?=$|[-_])/g) ?? []).join(' ');

/**
 * Names that are most likely slips of others: the same but for case, hyphens and underscores, or a letter or two away in a name of
 * some length, and with far fewer visits. `oct-a` and `oct-b`, `flyer-1` and `flyer-2` are none.
 *
 * @param visits by name
 * @param isKnown names that somebody spoke of are as they are meant
 */
export const likelySlips = (
  visits: ReadonlyMap<string, number>,
  isKnown: (name: string) => boolean,
): LikelySlip[] => {
  const names = [...visits].filter(([name]) => name !== '').toSorted((a, b) => b[1] - a[1]);
  const slips: LikelySlip[] = [];
  for (const [name, count] of names) {
    if (isKnown(name)) continue;
    const of = names.find(([other, more]) => {
      if (other === name || count > more * mostShare || marksOf(name) !== marksOf(other)) return false;
      const [mine, theirs] = [bare(name), bare(other)];
      if (mine === theirs) return true;
      const longest = Math.max(mine.length, theirs.length);
      if (Math.min(mine.length, theirs.length) < fewestLetters) return false;
      return distance(mine, theirs) <= (longest >= lettersForTwo ? 2 : 1);
    });
    if (of) slips.push({ name, visits: count, of: of[0], ofVisits: of[1] });
  }
  return slips;
};

/** Every source by what came from it since a moment (milliseconds since 1970 UTC), the most visits first; and likely slips. */
export const sources = (
  data: Dataset,
  from: number,
): { readonly sources: readonly SourceFigures[]; readonly slips: readonly LikelySlip[] } => {
  const { columns } = data.journal;
  const { texts } = columns.dictionaries.source;
  const { outcomes } = data.classification;
  const visits = new Map<string, number>();
  const newest = new Map<string, number>();
  const links = new Map<string, Set<string>>();
  const byNumber = new Float64Array(texts.length);
  const latest = new Float64Array(texts.length);
  const seen = texts.map(() => new Set<number>());
  segmentsSince(columns, from, (segment, n) => {
    const ofSegment = element(outcomes[n]);
    for (let i = 0; i < segment.rows; i++) {
      const at = element(segment.at[i]);
      if (at < from || ofSegment[i] !== outcomeNumber.counted) continue;
      const source = element(segment.source[i]);
      byNumber[source] = element(byNumber[source]) + 1;
      latest[source] = Math.max(element(latest[source]), at);
      element(seen[source]).add(element(segment.link[i]));
    }
  });
  const linkTexts = columns.dictionaries.link.texts;
  const note = (name: string, count: number, at: number, on: Iterable<string>) => {
    if (count === 0) return;
    addTo(visits, name, count);
    newest.set(name, Math.max(newest.get(name) ?? 0, at));
    const all = links.get(name) ?? new Set();
    for (const link of on) all.add(link);
    links.set(name, all);
  };
  for (const [i, name] of texts.entries())
    note(
      name,
      element(byNumber[i]),
      element(latest[i]),
      [...element(seen[i])].map((link) => element(linkTexts[link])),
    );
  for (const { source, outcome, day, count, link } of data.rolledUp.counts) {
    const at = momentOf(data.zone, `${day}T00:00`);
    if (outcome === 'counted' && at >= from) note(source, count, at, [link]);
  }
  const units = new Map<string, CountedUnit[]>();
  for (const list of countedUnits(data).byLink.values())
    for (const unit of list) if (unit.conversion.at >= from) pushTo(units, unit.source, unit);

  const together = new Map<string, string[]>();
  for (const name of visits.keys()) pushTo(together, data.sourceOf(name), name);
  for (const name of units.keys()) if (!together.has(name)) together.set(name, []);
  // A slip of which nobody came since can be parted again all the same.
  for (const { source, as } of data.records.sources)
    if (as !== undefined && !visits.has(source)) pushTo(together, data.sourceOf(source), source);
  const found = [...together].map(([source, names]): SourceFigures => {
    const list = units.get(source) ?? [];
    const real = list.filter(({ conversion }) => !conversion.refundOnly);
    return {
      source,
      slips: names
        .filter((name) => name !== source)
        .map((name) => ({ name, visits: visits.get(name) ?? 0 }))
        .toSorted((a, b) => b.visits - a.visits || (a.name < b.name ? -1 : 1)),
      visits: names.reduce((sum, name) => sum + (visits.get(name) ?? 0), 0),
      links: new Set(names.flatMap((name) => [...(links.get(name) ?? [])])).size,
      newest: Math.max(0, ...names.map((name) => newest.get(name) ?? 0)),
      conversions: real.filter(({ conversion }) => conversion.status !== 'reversed').length,
      commission: commissionOf(list.map(pricedConversion)),
    };
  });
  const known = new Set(data.records.sources.map(({ source }) => source));
  return {
    sources: found.toSorted((a, b) => b.visits - a.visits || (a.source < b.source ? -1 : 1)),
    slips: likelySlips(visits, (name) => known.has(name)),
  };
};
