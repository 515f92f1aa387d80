import fc from 'fast-check';
import { writeToString } from 'fast-csv';
import { describe, expect, it } from 'vitest';
import type { FeedRow, FileBytes, UnreadRow } from './index.ts';
import { openFeed, readFeed } from './index.ts';

/** Bytes of a text, in pieces of a size. */
const piecesOf = (bytes: Uint8Array, size = 7): FileBytes =>
  async function* () {
    for (let i = 0; i < bytes.length; i += size) {
      await Promise.resolve();
      yield bytes.subarray(i, i + size);
    }
  };
const utf8 = (text: string) => new TextEncoder().encode(text);
const latin1 = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));

const readAll = async (bytes: FileBytes) => {
  const opened = await openFeed(bytes);
  if (!opened.ok) throw new Error(opened.message);
  const rows: FeedRow[] = [];
  const unread: UnreadRow[] = [];
  for await (const batch of readFeed(bytes, opened.head)) {
    rows.push(...batch.rows);
    unread.push(...batch.unread);
  }
  return { head: opened.head, rows, unread, cells: rows.map(({ cells }) => cells) };
};

describe('a feed with delimiters', () => {
  it('is read as another program writes it, however its bytes arrive', async () => {
    // A cell that holds a line of as many cells as a row has is taken for a row that was cut off.
    const cell = fc.oneof(
      fc
        .string({ unit: fc.constantFrom('a', 'ü', '"', ',', "'", '漢', ' '), maxLength: 12 })
        .map((text) => `x${text}`),
      fc.string({ unit: fc.constantFrom('a', 'ü', '"', '\n', "'", ' '), maxLength: 12 }),
      fc.constantFrom('8" Dobson', 'a, b', '"Best" scope', 'two\nlines', 'one, two\n', '\n8" x', ''),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(9999).map(String), cell, cell, fc.nat(99).map(String)), {
          minLength: 3,
          maxLength: 30,
        }),
        fc.integer({ min: 1, max: 40 }),
        async (rows, size) => {
          const text = await writeToString([['id', 'name', 'about', 'price'], ...rows]);
          const { cells, unread } = await readAll(piecesOf(utf8(text), size));
          expect(unread).toEqual([]);
          expect(cells).toEqual(rows);
        },
      ),
      { numRuns: 300 },
    );
  });

  it('loses no row but the one that was cut off', async () => {
    // A quote beside a delimiter inside of a cell could be its end: of a torn file nobody could tell.
    const letters = (...units: string[]) =>
      fc.string({ unit: fc.constantFrom('a', 'b', ' ', ...units), maxLength: 10 }).map((text) => `x${text}y`);
    const name = fc.oneof(letters('"'), letters(';'), letters('\n'), letters("'", ','));
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(9999).map(String), name, name, fc.nat(99).map(String)), {
          minLength: 5,
          maxLength: 20,
        }),
        fc.nat(),
        fc.nat(),
        async (rows, which, where) => {
          const lines = await Promise.all(rows.map((row) => writeToString([row], { delimiter: ';' })));
          const torn = which % rows.length;
          const whole = lines[torn] ?? '';
          // So that a cell at least is missing, it ends before its last sign.
          const cut = whole.slice(0, 1 + (where % (whole.lastIndexOf(';') - 1)));
          const text = ['id;name;about;price', ...lines.with(torn, cut)].join('\n');
          const { rows: read, unread } = await readAll(piecesOf(utf8(text), 1000));
          const left = rows.filter((_, i) => i !== torn);
          expect(read.map(({ cells }) => cells)).toEqual(left);
          // A line without anything is no row.
          const kept = cut.split('\n').filter((line) => line.trim() !== '');
          expect(unread.flatMap(({ text }) => text.split('\n'))).toEqual(kept);
        },
      ),
      { numRuns: 500 },
    );
  });

  it('takes no row into one that was cut off, also where an inch could be the end of a cell', async () => {
    const { cells, unread } = await readAll(
      piecesOf(utf8('id;name;price\n1;"Torn\n2;Cap 8";9\n3;Mount;8\n')),
    );
    expect(cells).toEqual([
      ['2', 'Cap 8"', '9'],
      ['3', 'Mount', '8'],
    ]);
    expect(unread.map(({ text }) => text)).toEqual(['1;"Torn']);
  });

  it('keeps a line it cannot read, and says where it stands and why', async () => {
    const { cells, unread } = await readAll(
      piecesOf(
        utf8(
          'id\tname\tprice\n1\tMount\t9\n2\tKit\n3\t"Best" scope\t8\n4\tsome "8" inch\t7\n5\t"open\t6\n6\tCase\t5\t\t\n',
        ),
      ),
    );
    expect(cells).toEqual([
      ['1', 'Mount', '9'],
      ['3', '"Best" scope', '8'],
      ['4', 'some "8" inch', '7'],
      ['6', 'Case', '5'],
    ]);
    expect(unread).toEqual([
      { line: 3, text: '2\tKit', why: 'It has 2 cells where the heading has 3.' },
      { line: 6, text: '5\t"open\t6', why: expect.stringContaining('never closed') },
    ]);
  });

  it('is found to be in Latin-1, also where the first such letter comes late', async () => {
    const rows = Array.from({ length: 5000 }, (_, i) => `${i};Okular ${i};9,90`);
    const text = ['sku;name;preis', ...rows, '5000;Sternenhülle für draußen;12,50'].join('\r\n');
    const { head, cells } = await readAll(piecesOf(latin1(text), 4096));
    expect(head).toMatchObject({ format: 'semicolons', encoding: 'windows-1252' });
    expect(cells.at(-1)).toEqual(['5000', 'Sternenhülle für draußen', '12,50']);
    expect(cells).toHaveLength(5001);
  });

  it('is UTF-8 with one broken letter, and not all of it something else', async () => {
    const good = utf8('id,name,price\n1,Hülle,2\n2,Größe,3\n3,Zubehör,4\n4,B');
    const bytes = new Uint8Array([...good, 0xfc, ...utf8('gel,5\n')]);
    const { head, cells } = await readAll(piecesOf(bytes));
    expect(head).toMatchObject({ encoding: 'utf-8', broken: 1 });
    expect(cells[1]).toEqual(['2', 'Größe', '3']);
    expect(cells[3]).toEqual(['4', 'B\ufffdgel', '5']);
  });

  it('is read in UTF-16, with titles above the heading, and with line ends of old machines', async () => {
    const wide = new Uint8Array(Buffer.from('\ufeffid\tname\n1\tHülle\n2\tKit\n', 'utf16le'));
    expect((await readAll(piecesOf(wide, 5))).cells).toEqual([
      ['1', 'Hülle'],
      ['2', 'Kit'],
    ]);
    const titled = await readAll(piecesOf(utf8('Feed of Polehouse\n\nid;name;price\n1;Kit;9\n2;Mount;8\n')));
    expect(titled.head.header).toEqual(['id', 'name', 'price']);
    expect(titled.rows).toEqual([
      { line: 4, cells: ['1', 'Kit', '9'] },
      { line: 5, cells: ['2', 'Mount', '8'] },
    ]);
    const old = await readAll(piecesOf(utf8('id;name\r1;Kit\r2;Mount\r')));
    expect(old.cells).toEqual([
      ['1', 'Kit'],
      ['2', 'Mount'],
    ]);
  });

  it('says what a file is that is none', async () => {
    for (const [text, says] of [
      ['', 'empty'],
      ['PK\u0003\u0004abc', 'Unpack'],
      ['<!doctype html><html><body>Sign in</body></html>', 'web page'],
      ['{"products":[]}', 'JSON'],
      ['one\ntwo\nthree', 'Nothing parts'],
    ] as const)
      expect(await openFeed(piecesOf(utf8(text)))).toMatchObject({
        ok: false,
        message: expect.stringContaining(says),
      });
  });
});

describe('a feed in XML', () => {
  /** The form of the RSS 2.0 specification's items, with a namespace of a shop's own. */
  const rss = (items: readonly string[]) =>
    `<?xml version="1.0" encoding="UTF-8"?>\n<rss version="2.0" xmlns:g="urn:shop.example"><channel><title>All of it</title><link>https://polehouse.example/</link>${items.join('\n')}</channel></rss>`;
  const item = (name: string, price: string) =>
    `<item><title>${name}</title><link>https://polehouse.example/p?a=1&amp;b=2</link><g:price>${price}</g:price><g:image>a.png</g:image><g:image>b.png</g:image></item>`;

  it('is read whatever its elements are called', async () => {
    const { head, cells } = await readAll(
      piecesOf(utf8(rss([item('Kit', '9.00 EUR'), item('<![CDATA[Mount & <b>more</b>]]>', '8 EUR')]))),
    );
    expect(head).toMatchObject({
      format: 'XML',
      encoding: 'utf-8',
      header: ['title', 'link', 'g:price', 'g:image'],
    });
    expect(cells).toEqual([
      ['Kit', 'https://polehouse.example/p?a=1&b=2', '9.00 EUR', 'a.png'],
      ['Mount & <b>more</b>', 'https://polehouse.example/p?a=1&b=2', '8 EUR', 'a.png'],
    ]);
  });

  it('is read with values in attributes, in elements within, and in Latin-1 as it declares', async () => {
    const text =
      '<?xml version="1.0" encoding="ISO-8859-1"?><shop><groups><group id="1"/><group id="2"/><group id="3"/></groups><products>' +
      '<product sku="a1"><name>Hülle</name><cost currency="EUR">9</cost><pictures><picture url="https://polehouse.example/1.png"/></pictures></product>' +
      '<product sku="a2"><name>Gr&ouml;&szlig;e & mehr</name><cost currency="EUR">8</cost></product></products></shop>';
    const { head, cells, unread } = await readAll(piecesOf(latin1(text), 3));
    expect(head.header).toEqual(['@sku', 'name', 'cost@currency', 'cost', 'pictures/picture@url']);
    expect(cells).toEqual([
      ['a1', 'Hülle', 'EUR', '9', 'https://polehouse.example/1.png'],
      ['a2', 'Größe & mehr', 'EUR', '8', ''],
    ]);
    expect(unread).toEqual([]);
  });

  it('gives every whole product of a file that was cut off anywhere, and keeps the one within which it ends', async () => {
    const names = Array.from({ length: 12 }, (_, i) => `Kit ${i}`);
    const text = rss(names.map((name) => item(name, '9')));
    const ends = names.map(
      (_, i) =>
        text
          .split('</item>')
          .slice(0, i + 1)
          .join('</item>').length + '</item>'.length,
    );
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: ends[1] ?? 0, max: text.length }), async (cut) => {
        const { cells, unread } = await readAll(piecesOf(utf8(text.slice(0, cut)), 50));
        const whole = ends.filter((end) => end <= cut).length;
        expect(cells.map(([name]) => name)).toEqual(names.slice(0, whole));
        const within = text.slice(0, cut).lastIndexOf('<item>') >= (ends[whole - 1] ?? 0);
        expect(unread).toHaveLength(within ? 1 : 0);
      }),
      { numRuns: 200 },
    );
  });

  it('keeps a product aside that has no end or is torn, and reads the next', async () => {
    const torn = '<item><title>Torn</title><link>https://polehouse.example/';
    const crossed = '<item><title>Crossed</link></title><g:price>1</g:price></item>';
    const { cells, unread } = await readAll(
      piecesOf(utf8(rss([item('A', '1'), torn, item('B', '2'), crossed, item('C', '3')]))),
    );
    expect(cells.map(([name]) => name)).toEqual(['A', 'B', 'C']);
    expect(unread.map(({ text }) => text.split('\n')[0])).toEqual(['title: Torn', 'title: Crossed']);
  });
});
