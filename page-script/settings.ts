import type { ScriptTable } from '#core/articles';
import { isSourceName } from '#core/hop';

/** What the script is to do, as the `data-` attributes of its element say. */
export interface Settings {
  /** What it does: of `data-do`, all of it where that is not there. */
  readonly does: (what: 'addresses' | 'keywords' | 'marks') => boolean;
  /** What it tells the link domain: of `data-count`, all of it where that is not there. */
  readonly counts: (what: 'clicks' | 'reading') => boolean;
  /** Selector of what keywords are linked in. */
  readonly within: string;
  /** Selector of what is left alone besides editors, forms and code; empty for nothing more. */
  readonly without: string;
  /** What stands after `~` in short addresses; empty for nothing. */
  readonly source: string;
  /** The click of ours that led to this page; empty where none is known. */
  readonly first: string;
  readonly headings: boolean;
  readonly limits: ScriptTable['limits'];
}

const listed = (value: string | undefined) => (name: string) =>
  value === undefined || value.split(' ').includes(name);

/** A name in the page's own address, as of a source (`?from=newsletter`). */
const named = (parameter: string): string => {
  const name = new URLSearchParams(location.search).get(parameter) ?? '';
  return isSourceName(name) ? name : '';
};

/** What is known of the visit by the page's own address; for as long as the tab is open, if that is switched on. */
const ofVisit = (name: 'source' | 'click', found: string, keeps: boolean): string => {
  if (!keeps) return found;
  try {
    if (found !== '') sessionStorage.setItem(`fernhop-${name}`, found);
    return sessionStorage.getItem(`fernhop-${name}`) ?? '';
  } catch {
    return found;
  }
};

/** The last part of the page's path, where that may be a source: of `/guides/saturn-rings.html`, `saturn-rings`. */
const pathSource = (): string => {
  const [, last = ''] = /([^/.]+)(?:\.\w+)?\/?(?:index\.\w+)?$/.exec(location.pathname) ?? [];
  return isSourceName(last) ? last.toLowerCase() : '';
};

/** Reads the attributes of the script's element. What is not said, or cannot be read, is as usual. */
export const settingsOf = (data: DOMStringMap, { limits, headings }: ScriptTable): Settings => {
  const { within = 'body', without = '', source = '', sourceFrom, keep } = data;
  const keeps = keep === 'session';
  // What is a click ID the server sees.
  const first = ofVisit('click', named('from-click'), keeps);
  const found =
    ofVisit('source', sourceFrom === 'visit' || first ? named('from') : '', keeps) ||
    (sourceFrom === 'path' ? pathSource() : '');
  const own: Record<string, number> = {};
  for (const name of Object.keys(limits)) {
    const value = data[name];
    if (value !== undefined && /^\d{1,4}$/.test(value)) own[name] = Number(value);
  }
  return {
    does: listed(data.do),
    counts: listed(data.count),
    within,
    without,
    source: found || (isSourceName(source) ? source : ''),
    first,
    headings: data.headings === undefined ? headings : data.headings !== 'off',
    limits: { ...limits, ...own },
  };
};
