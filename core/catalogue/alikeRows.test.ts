import { describe, expect, it } from 'vitest';
import type { BadRow } from './index.ts';
import { alikeWords, mendAlike } from './index.ts';

const bad = (line: number, cells: string[], ...messages: string[]): BadRow => ({
  line,
  cells,
  problems: messages.map((message) => ({ path: '', message })),
});
const noType = '“temporär” is no redirect type; 301, 302, 307 and 308 are.';
const noSlug = 'A slug cannot hold spaces. Use - between words.';

describe('a word that is wrong in many rows', () => {
  const rows = [
    ...Array.from({ length: 333 }, (_, i) => bad(i + 2, [`kit-${i}`, 'temporär'], noType)),
    bad(400, ['two words', 'temporär'], noSlug, noType),
    bad(401, ['two words', '302'], noSlug),
    bad(402, ['a', 'dauerhaft'], '“dauerhaft” is no redirect type; 301, 302, 307 and 308 are.'),
  ];

  it('is asked for once, with how often it stands there', () => {
    expect(alikeWords(rows)).toEqual([{ column: 1, word: 'temporär', message: noType, rows: 334 }]);
    expect(alikeWords([])).toEqual([]);
  });

  it('is mended in all of them, and only there', () => {
    const mended = mendAlike(rows, { column: 1, word: 'temporär', message: noType }, '302');
    expect(mended).toHaveLength(334);
    expect(mended[0]).toEqual({ line: 2, cells: ['kit-0', '302'] });
    expect(mended.at(-1)).toEqual({ line: 400, cells: ['two words', '302'] });
  });

  it('may be a piece of a cell: a token that others fill', () => {
    const said = '{subid} is no token of ours. Use one of {click} {source}, or mark it as text.';
    const list = [
      bad(2, ['a', 'https://a.example/?s={subid}&u={subid}'], said, said),
      bad(3, ['b', 'https://b.example/?s={subid}'], said),
    ];
    const [alike] = alikeWords(list);
    expect(alike).toEqual({ column: 1, word: '{subid}', message: said, rows: 2 });
    expect(mendAlike(list, { column: 1, word: '{subid}', message: said }, '{click}')).toEqual([
      { line: 2, cells: ['a', 'https://a.example/?s={click}&u={click}'] },
      { line: 3, cells: ['b', 'https://b.example/?s={click}'] },
    ]);
  });

  it('stands in one column: the same sentence of different cells is not the same word', () => {
    const said = '“b” is no day such as 2026-10-24.';
    expect(alikeWords([bad(2, ['a', 'b'], said), bad(3, ['b', 'c'], said)])).toEqual([]);
  });
});
