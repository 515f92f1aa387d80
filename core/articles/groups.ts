import type { ArticleParts, Run } from './parts.ts';

/** Words of one block that are read one after the other. */
export interface Group {
  readonly block: number;
  readonly text: string;
  readonly runs: readonly Run[];
  /** Where each run begins in the text. */
  readonly starts: readonly number[];
}

/**
 * The words of an article, block by block, as they are read: a word that is partly bold is one word. Code, and what is no word of the
 * article, parts words like a line's end.
 */
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
      text += run.where === 'closed' ? '\n' : run.text;
    }
    groups.push({ block, text, runs: own, starts });
  }
  return groups;
};

/** A run of a group, and where what is looked for begins in it. */
export interface InRun {
  readonly run: Run;
  readonly at: number;
}

/** The run that has a whole stretch of a group, and where that begins in it; undefined where it is parted. */
export const runWith = ({ runs, starts, text }: Group, start: number, end: number): InRun | undefined => {
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
