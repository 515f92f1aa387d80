import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { makeProductFinder, makeProductIndex, makeProductReader, readFeedColumns } from './index.ts';

const read = (header: string[], rows: string[][], usual = 'EUR') => {
  const reading = readFeedColumns(header, rows, usual);
  const reader = makeProductReader(header, reading, 'Europe/Berlin');
  return { reading, products: rows.map(reader) };
};

describe('the columns of a feed', () => {
  it('are found by their headings in several languages, and prices by what stands in them', () => {
    const german = read(
      [
        'Artikelnummer',
        'Bezeichnung',
        'Preis',
        'UVP',
        'Währung',
        'Produktlink',
        'Bild-URL',
        'EAN',
        'Beschreibung',
      ],
      [
        [
          'TS-1',
          'Okular &amp; Hülle',
          '1.299,00',
          '1.499,00',
          'EUR',
          'https://polehouse.example/ts-1',
          '//polehouse.example/1.jpg',
          '4006381333931',
          '<p>Gut für<br>Saturn</p>',
        ],
        ['TS-2', 'Kit', '12,50', '', 'EUR', 'https://polehouse.example/ts-2', '', '', ''],
      ],
    );
    expect(german.reading.asks).toEqual([]);
    expect(german.products).toEqual([
      {
        ok: true,
        doubt: '',
        product: {
          name: 'Okular & Hülle',
          code: 'TS-1',
          secondCode: '4006381333931',
          page: 'https://polehouse.example/ts-1',
          picture: 'https://polehouse.example/1.jpg',
          about: 'Gut für Saturn',
          price: { amount: 129_900, currency: 'EUR', list: 149_900 },
        },
      },
      expect.objectContaining({
        product: expect.objectContaining({ price: { amount: 1250, currency: 'EUR' } }),
      }),
    ]);
    const spaced = read(
      ['g:id', 'title', 'link', 'g:image_link', 'g:price', 'g:sale_price', 'description'],
      [
        [
          '1',
          'Mount',
          'https://polehouse.example/1',
          'https://polehouse.example/1.png',
          '99.00 USD',
          '79.00 USD',
          '',
        ],
        ['2', 'Case', 'https://polehouse.example/2', '', '19.00 USD', '', ''],
      ],
    );
    expect(spaced.products.map((each) => (each.ok ? each.product.price : each.why))).toEqual([
      { amount: 7900, currency: 'USD', list: 9900 },
      { amount: 1900, currency: 'USD' },
    ]);
    const nested = read(
      ['@number', 'title', 'page@href', 'price@currency', 'price'],
      [['PO-4100', 'Kit', 'https://polehouse.example/1', 'EUR', '9.00']],
    );
    expect(nested.products[0]).toMatchObject({ product: { code: 'PO-4100', price: { amount: 900 } } });
    const french = read(
      ['Référence', 'Nom du produit', 'URL', 'Prix', 'Prix barré'],
      [['A', 'Étui', 'https://polehouse.example/a', '1 299,90 €', '']],
    );
    expect(french.products[0]).toMatchObject({
      product: { code: 'A', price: { amount: 129_990, currency: 'EUR' } },
    });
  });

  it('are asked about where a file leaves them open', () => {
    const { reading } = read(
      ['a', 'b', 'price'],
      [
        ['x', 'y', '1.299'],
        ['z', 'w', '2.499'],
      ],
    );
    expect(reading.asks).toEqual(['name', 'page', 'decimal', 'currency']);
    const told = readFeedColumns(['a', 'b', 'price'], [['x', 'y', '1.299']], 'EUR', {
      roles: { a: 'name', b: 'page' },
      decimal: ',',
      currency: 'EUR',
    });
    expect(told.asks).toEqual([]);
    expect(told.decimal).toBe(',');
  });

  it('say why a row is no product, and what of one could not be read', () => {
    const { products } = read(
      ['id', 'name', 'url', 'price', 'currency'],
      [
        ['1', '', 'https://polehouse.example/1', '9', 'EUR'],
        ['2', 'Kit', 'polehouse', '9', 'EUR'],
        ['3', 'Kit', 'https://polehouse.example/3', 'on request', 'EUR'],
        ['4', 'Kit', 'https://polehouse.example/4', '9', 'EUR'],
        ['5', 'Kit', 'https://polehouse.example/5', '-9', 'EUR'],
        ['6', 'Kit', 'https://polehouse.example/6', '9', 'EUR'],
        ...Array.from({ length: 20 }, (_, i) => [`${i}`, 'Kit', 'https://polehouse.example/x', '8', 'EUR']),
      ],
    );
    expect(products.slice(0, 5)).toMatchObject([
      { ok: false, why: 'It has no name.' },
      { ok: false, why: '“polehouse” is no address.' },
      { ok: true, doubt: '“on request” is no price of EUR' },
      { ok: true, doubt: '', product: { price: { amount: 900 } } },
      { ok: true, doubt: '“-9” is no price of EUR' },
    ]);
    expect(products[2]).not.toHaveProperty('product.price');
  });
});

describe('the index of products', () => {
  it('finds what a look at each of them finds', () => {
    const words = ['Saturn', 'kit', 'Größe', '8"', 'tripod', 'tri', '望遠鏡', 'x-1', 'Hülle'];
    const name = fc.array(fc.constantFrom(...words), { maxLength: 4 }).map((list) => list.join(' '));
    const product = fc.record({
      name,
      code: fc.constantFrom('', 'X-1', 'ts/44', '8'),
      secondCode: fc.constantFrom('', '4006'),
    });
    const fold = (text: string) =>
      text.toLowerCase().replaceAll('ö', 'o').replaceAll('ü', 'u').replaceAll('ß', 'ss');
    /** By hand: some word of it, or a code without its signs, begins with each asked word. */
    const isFound = (
      asked: string,
      { name, code, secondCode }: { name: string; code: string; secondCode: string },
    ) => {
      const parts = (text: string) =>
        fold(text)
          .split(/[ "/-]/)
          .flatMap((word) => (/^[a-z0-9]*$/.test(word) ? [word] : [...word]))
          .filter((word) => word !== '');
      const all = [
        ...parts(name),
        ...[code, secondCode].flatMap((each) => [...parts(each), fold(each).replace(/[/-]/g, '')]),
      ];
      return parts(asked).every((word) => all.some((other) => other.startsWith(word)));
    };
    fc.assert(
      fc.property(
        fc.array(product, { maxLength: 40 }),
        fc.array(fc.constantFrom('sat', 'K', 'grösse', '8', 't', 'tri', '遠', 'x-1', 'hul', '44', 'none'), {
          minLength: 1,
          maxLength: 3,
        }),
        (products, asked) => {
          const index = makeProductIndex();
          for (const each of products) index.add(each);
          const text = asked.join(' ');
          const found = makeProductFinder(index.build())(text, 1000);
          const expected = products.flatMap((each, row) => (isFound(text, each) ? [row] : []));
          expect(found.rows.toSorted((a, b) => a - b)).toEqual(expected);
          expect(found.count).toBe(expected.length);
        },
      ),
      { numRuns: 500 },
    );
  });

  it('has a code first that is exactly that', () => {
    const index = makeProductIndex();
    for (const [name, code] of [
      ['Cable for TS-44', 'A'],
      ['Mount TS 44', 'TS-445'],
      ['Kit', 'ts44'],
    ] as const)
      index.add({ name, code, secondCode: '' });
    expect(makeProductFinder(index.build())('TS-44', 2)).toEqual({ count: 3, rows: [2, 0] });
  });
});
