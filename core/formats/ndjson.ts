import { element } from '#core/catalogue';

const valuesOf = <T>(lines: readonly string[]): T[] =>
  lines.filter((line) => line.trim() !== '').map((line): T => JSON.parse(line));

/** The values of the whole lines of newline-delimited JSON. A last line without an end is still being written. */
export const parseNdjson = <T>(text: string): T[] => valuesOf(text.split('\n').slice(0, -1));

/**
 * Reads newline-delimited JSON as it arrives: gives the values of the whole lines of each piece. Empty lines are passed
 * over; a last line without an end is one that is still being written, and is left out.
 *
 * @param pieces text in any pieces; the caller knows what a line holds
 * @throws SyntaxError for a whole line that is no JSON
 */
export const readNdjson = async function* <T>(pieces: AsyncIterable<string>): AsyncGenerator<T[]> {
  let rest = '';
  for await (const piece of pieces) {
    const lines = (rest + piece).split('\n');
    rest = element(lines.pop());
    const values = valuesOf<T>(lines);
    if (values.length > 0) yield values;
  }
};
