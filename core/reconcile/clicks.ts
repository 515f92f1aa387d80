import type { Link } from '#core/catalogue';
import { element } from '#core/catalogue';
import type { VisitColumns, Classification } from '#core/visits';
import { segmentRows } from '#core/visits';
import type { Clicks } from './matchStage.ts';

/**
 * The clicks of a journal, held as columns, as reconciling asks for them.
 *
 * @param rolledUpBefore requests before this moment are rolled up, but for those that stayed
 */
export const clicksOf = (
  columns: VisitColumns,
  classification: Classification,
  links: readonly Pick<Link, 'id' | 'network' | 'program'>[],
  rolledUpBefore = -Infinity,
): Clicks => {
  const byId = new Map(links.map((link) => [link.id, link]));
  const { texts } = columns.dictionaries.link;
  const networks = texts.map((id) => byId.get(id)?.network ?? '');
  const programs = texts.map((id) => byId.get(id)?.program ?? '');
  const place = (row: number) => element(columns.segmentOf(row).link[row % segmentRows]);
  const first = columns.rows > 0 ? columns.at(0) : Infinity;
  const last = columns.rows > 0 ? columns.at(columns.rows - 1) : -Infinity;

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
    return lists;
  };

  return {
    beginningWith: (text) => columns.beginningWith(text),
    click: (row) => columns.click(row),
    networkOf: (row) => element(networks[place(row)]),
    programOf: (row) => element(programs[place(row)]),
    covers: (at) => at >= first && at <= last,
    isRolledUp: (at) => at < rolledUpBefore,
    at: (row) => columns.at(row),
    link: (row) => columns.text('link', row),
    source: (row) => columns.text('source', row),
    outcome: (row) => classification.outcome(row),
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
