import type { ArticleParts, Run } from './parts.ts';

/** Words of one block that are read one after the other. */
export interface Group {
  readonly block: number;
  readonly text: string;
  readonly runs: readonly Run[];
  /** Where each run begins in the text. */
  readonly starts: readonly number[];
}

/** The words of an article, block by block, as they are read: a word that is partly bold is one word. */
export const groupsOf = ({ runs }: Pick<ArticleParts, 'runs'>): Group[] => {
  const groups: Group[] = [];
  for (let i = 0; i < runs.length;) {
    const block = runs[i]?.block ?? -1;
    const own: Run[] = [];
    const starts: number[] = [];
    let text = '';
    for (let run = runs[i]; run?.block === block; run = runs[++i]) {
      starts.push(text.length);
      own.push(run);
      text += run.text;
    }
    groups.push({ block, text, runs: own, starts });
  }
  return groups;
};

/** The run that has a whole stretch of a group, and where that begins in it; undefined where it is parted. */
export const runWith = (
  { runs, starts, text }: Group,
  start: number,
  end: number,
): { readonly run: Run; readonly at: number } | undefined => {
  let [low, high] = [0, starts.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((starts[middle] ?? 0) <= start) low = middle;
    else high = middle - 1;
  }
  const run = runs[low];
  const from = starts[low] ?? 0;
  return run && end <= (starts[low + 1] ?? text.length) ? { run, at: start - from } : undefined;
};

/**
 * Stretches that a site's generator or a blog's program fills in, such as `{{ figure }}`, `{% note %}`, `{: .class }`, `[[page]]`,
 * `[gallery ids=1]`, `<% x %>`: nothing in them is read by anybody (common practice of generators).
 */
const filledIn =
  // Of what is not ended soon nothing is filled in; a bound keeps a text of many beginnings from being read over and over.
  /\{\{[\s\S]{0,2000}?\}\}|\{%[\s\S]{0,2000}?%\}|\{[:#.][^}\n]{0,500}\}|\[\[[\s\S]{0,500}?\]\]|\[\/?[a-z][\w-]{0,60}(?:\s[^\]\n]{0,800}=[^\]\n]{0,800})?\s?\/?\]|<%[\s\S]{0,2000}?%>|\$\$[\s\S]{0,2000}?\$\$/g;

/** Where nothing may be linked in a text, as pairs of begin and end. */
export const filledStretches = (text: string): [start: number, end: number][] =>
  /[{[<$]/.test(text)
    ? [...text.matchAll(filledIn)].map((match) => [match.index, match.index + match[0].length])
    : [];
