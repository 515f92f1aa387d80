import { contentIfThere } from './chain.ts';
import { readableLines } from './files.ts';

/** The lines of an excerpt whose records are wanted: it lacks those that were removed by choice. */
export const excerptLines = async function* (
  path: string,
  { first, last }: { readonly first: number; readonly last: number },
): AsyncGenerator<Buffer> {
  for (const { text } of readableLines(await contentIfThere(path), first, last))
    yield Buffer.from(`${text}\n`);
};

/**
 * The records of a damaged file as lines, for those who read the journal. In the place of records that cannot be read or
 * are gone stands one that says how many, so that nothing is missing silently.
 *
 * @param range the records that are wanted; a file holds no others
 */
export const healedLines = async function* (
  path: string,
  { first, last }: { readonly first: number; readonly last: number },
): AsyncGenerator<Buffer> {
  let next = first;
  let at = 0;
  const lost = (until: number) => {
    const count = until - next + 1;
    next = until + 1;
    return Buffer.from(
      `${JSON.stringify({ seq: until, kind: 'lost', at, until: at, count, why: 'damage', links: {} })}\n`,
    );
  };
  for (const { seq, text } of readableLines(await contentIfThere(path), 1, last)) {
    const record = JSON.parse(text) as { at?: unknown }; // it was parsed there
    const time = typeof record.at === 'number' ? record.at : at;
    if (seq < next) {
      at = time;
      continue;
    }
    if (at === 0) at = time;
    if (seq > next) yield lost(seq - 1);
    at = time;
    yield Buffer.from(`${text}\n`);
    next = seq + 1;
  }
  if (next <= last) yield lost(last);
};
