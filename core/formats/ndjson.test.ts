import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseNdjson, readNdjson } from './index.ts';

const all = async <T>(pieces: readonly string[]): Promise<T[]> => {
  const source = async function* () {
    for (const piece of pieces) yield await Promise.resolve(piece);
  };
  const values: T[] = [];
  for await (const some of readNdjson<T>(source())) values.push(...some);
  return values;
};

describe('newline-delimited JSON', () => {
  it('reads the same in whatever pieces it arrives', () =>
    fc.assert(
      fc.asyncProperty(
        fc.array(fc.jsonValue(), { maxLength: 12 }),
        fc.array(fc.nat({ max: 200 }), { maxLength: 12 }),
        async (values, cuts) => {
          const text = values.map((value) => `${JSON.stringify(value)}\n`).join('');
          const places = [
            0,
            ...cuts.map((cut) => Math.min(cut, text.length)).sort((a, b) => a - b),
            text.length,
          ];
          const pieces = places.slice(1).map((place, i) => text.slice(places[i], place));
          const plain: unknown = JSON.parse(JSON.stringify(values));
          expect(await all(pieces)).toEqual(plain);
          expect(parseNdjson(text)).toEqual(plain);
        },
      ),
    ));

  it('leaves out a last line that is still being written, and empty ones', async () => {
    const text = '{"a":1}\n\n{"b":2}\n{"c":';
    expect(parseNdjson(text)).toEqual([{ a: 1 }, { b: 2 }]);
    expect(await all([text])).toEqual([{ a: 1 }, { b: 2 }]);
  });

  it('fails at a whole line that is none', async () => {
    expect(() => parseNdjson('{"a":1}\nnone\n')).toThrow(SyntaxError);
    await expect(all(['{"a":1}\nno', 'ne\n'])).rejects.toThrow(SyntaxError);
  });
});
