import { element } from '#core/catalogue';
import { dayNumber, fromLog } from '#core/hop';
import type { VisitColumns, Classification, DailyCount } from '#core/visits';
import { segmentRows } from '#core/visits';
import type { HoldingLink } from './lookup.ts';
import type { Clicks } from './matchStage.ts';

const dayMs = 86_400_000;

/**
 * The clicks of a journal, held as columns, as reconciling asks for them.
 *
 * @param rolledUpBefore requests before this moment are rolled up, but for those that stayed
 * @param rolledUp the daily counts of those that did not
 * @param sourceOf the name a source counts under
 */
export const clicksOf = (
  columns: VisitColumns,
  classification: Classification,
  links: readonly HoldingLink[],
  rolledUpBefore = -Infinity,
  rolledUp: readonly DailyCount[] = [],
  sourceOf: (name: string) => string = (name) => name,
): Clicks => {
  const byId = new Map(links.map((link) => [link.id, link]));
  const { texts } = columns.dictionaries.link;
  const networks = texts.map((id) => byId.get(id)?.network ?? '');
  const programs = texts.map((id) => byId.get(id)?.program ?? '');
  const others = texts.map((id) => byId.get(id)?.alsoOf ?? []);
  const place = (row: number) => element(columns.segmentOf(row).link[row % segmentRows]);
  // An access log tells of requests that the journal did not see: it says nothing of those that are missing.
  const isOwn = (row: number) => columns.text('branch', row) !== fromLog;
  let firstRow = 0;
  while (firstRow < columns.rows && !isOwn(firstRow)) firstRow += 1;
  const first = firstRow < columns.rows ? columns.at(firstRow) : Infinity;
  const last = columns.newest.reduce((a, b) => Math.max(a, b), -Infinity);

  /** Counted rows by program and by network, in order of time; made when first asked for. */
  let lists: Map<string, number[]> | undefined;
  const listed = () => {
    if (lists) return lists;
    lists = new Map();
    for (let row = 0; row < columns.rows; row++) {
      const link = place(row);
      const network = element(networks[link]);
      if (network === '' || classification.outcome(row) !== 'counted') continue;
      for (const key of [network, `${network} ${element(programs[link])}`]) {
        const list = lists.get(key);
        if (list) list.push(row);
        else lists.set(key, [row]);
      }
    }
    if (!columns.isByTime)
      for (const list of lists.values()) list.sort((a, b) => columns.at(a) - columns.at(b) || a - b);
    return lists;
  };

  /** Days of which counted clicks are rolled up, by program and by network; made when first asked for. */
  let rolledUpDays: Map<string, Set<number>> | undefined;
  const daysRolledUp = () => {
    if (rolledUpDays) return rolledUpDays;
    rolledUpDays = new Map();
    for (const { link, day, outcome } of rolledUp) {
      const { network = '', program = '' } = byId.get(link) ?? {};
      if (network === '' || outcome !== 'counted') continue;
      for (const key of [network, `${network} ${program}`]) {
        const days = rolledUpDays.get(key) ?? new Set();
        rolledUpDays.set(key, days.add(dayNumber(day)));
      }
    }
    return rolledUpDays;
  };

  return {
    beginningWith: (text) => columns.beginningWith(text),
    click: (row) => columns.click(row),
    networkOf: (row) => element(networks[place(row)]),
    isOf: (row, network) => {
      const link = place(row);
      return element(networks[link]) === network || element(others[link]).includes(network);
    },
    programOf: (row) => element(programs[place(row)]),
    covers: (at) => at >= first && at <= last,
    isRolledUp: (at) => at < rolledUpBefore,
    at: (row) => columns.at(row),
    link: (row) => columns.text('link', row),
    source: (row) => sourceOf(columns.text('source', row)),
    sourceOf,
    outcome: (row) => classification.outcome(row),
    someRolledUp: (network, program, from, until) => {
      const days = daysRolledUp().get(program === '' ? network : `${network} ${program}`);
      if (!days) return false;
      // A day of ours begins and ends elsewhere than one of UTC.
      for (let day = Math.floor(from / dayMs) - 1; day <= Math.floor(until / dayMs) + 1; day++)
        if (days.has(day)) return true;
      return false;
    },
    between: (network, program, from, until, most) => {
      const list = listed().get(program === '' ? network : `${network} ${program}`) ?? [];
      let [low, high] = [0, list.length];
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (columns.at(element(list[middle])) <= until) low = middle + 1;
        else high = middle;
      }
      const found: number[] = [];
      // The newest before it are the likeliest.
      for (let i = low - 1; i >= 0 && found.length < most; i--) {
        const row = element(list[i]);
        if (columns.at(row) < from) break;
        found.push(row);
      }
      return found;
    },
  };
};
