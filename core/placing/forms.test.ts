import fc from 'fast-check';
import MarkdownIt from 'markdown-it';
import { micromark } from 'micromark';
import type { DefaultTreeAdapterTypes } from 'parse5';
import { parseFragment } from 'parse5';
import { describe, expect, it } from 'vitest';
import type { Marks } from '#core/catalogue';
import type { Copied, CopyForm, PlacedLink } from './index.ts';
import { clipOf, clipOfSeveral, copyForms, linkHtml, severalForms, usualLook } from './index.ts';

type Node = DefaultTreeAdapterTypes.ChildNode;
/** The elements of HTML in their order, as a browser would read them, each with its attributes and its text. */
const elementsOf = (html: string) => {
  const found: { name: string; attributes: Record<string, string>; text: string }[] = [];
  const textOf = (node: Node): string =>
    'value' in node ? node.value : 'childNodes' in node ? node.childNodes.map(textOf).join('') : '';
  const walk = (nodes: readonly Node[]): void => {
    for (const node of nodes)
      if ('tagName' in node) {
        found.push({
          name: node.tagName,
          attributes: Object.fromEntries(node.attrs.map(({ name, value }) => [name, value])),
          text: textOf(node),
        });
        walk(node.childNodes);
      }
  };
  walk(parseFragment(html).childNodes);
  return found;
};

const marks: Marks = { rel: ['sponsored', 'nofollow'], newTab: true, title: '' };
const placed = (more: Partial<PlacedLink> = {}): PlacedLink => ({
  address: 'https://see.nightledge.example/dob-8~saturn-guide',
  text: '8-inch Dobsonian',
  marks,
  referrer: 'page',
  ...more,
});
const copied = (more: Partial<Copied> = {}): Copied => ({
  link: placed(),
  picture: { src: 'dob-8.jpg', alt: 'A Dobsonian at dusk', width: 320, height: 240, side: 'left' },
  disclosure: { post: 'This link pays me if you buy.', mail: 'Links in this mail pay us.' },
  ...more,
});
const plainOf = (form: CopyForm, more: Partial<Copied> = {}) => clipOf(form, copied(more)).plain;

/** Titles as shops and people write them, and as somebody would who means harm. */
const hostile = [
  'say "ah" & <b>go</b>',
  "'onmouseover='alert(1)",
  '"><script>alert(1)</script>',
  '</a><img src=x onerror=alert(1)>',
  '] (http://evil.example) [',
  'a](javascript:alert(1))',
  '[url=http://evil.example]x[/url]',
  '*bold* _under_ `code` ~~gone~~ | cell',
  '![picture](x)',
  'line\nbreak\r\n# heading',
  '&amp; &copy; &#65;',
  'back\\slash \\] end\\',
  'ünïcode “quotes” 日本 🔭',
  '<!-- comment -->',
  'https://evil.example/',
];

describe('a placed link', () => {
  it('carries its marks, lets the hop learn the page and hands over no opener', () =>
    expect(linkHtml(placed())).toBe(
      '<a href="https://see.nightledge.example/dob-8~saturn-guide" rel="sponsored nofollow noopener" target="_blank" referrerpolicy="no-referrer-when-downgrade">8-inch Dobsonian</a>',
    ));
  it('without marks is plain', () =>
    expect(linkHtml(placed({ marks: { rel: [], newTab: false, title: '' }, referrer: 'usual' }))).toBe(
      '<a href="https://see.nightledge.example/dob-8~saturn-guide">8-inch Dobsonian</a>',
    ));
  it('says nothing of the page where the referrer is hidden, and what it is counted as where the page counts it', () => {
    const [link] = elementsOf(
      linkHtml(placed({ referrer: 'hidden', counted: { link: 'lnk_dob', slot: 'ref1' } })),
    );
    expect(link?.attributes).toMatchObject({
      referrerpolicy: 'no-referrer',
      'data-fernhop': 'lnk_dob',
      'data-click': 'ref1',
    });
  });
});

describe('each form, read by an HTML parser', () => {
  const anything = fc.oneof(fc.constantFrom(...hostile), fc.string({ unit: 'grapheme', maxLength: 80 }));
  it('is one link with its marks, its address and its words, whatever the title is', () =>
    fc.assert(
      fc.property(
        anything,
        anything,
        fc.constantFrom(...copyForms),
        fc.boolean(),
        (text, title, form, own) => {
          const link = placed({ text, marks: { ...marks, title } });
          const clip = clipOf(
            form,
            copied({
              link,
              ...(own && { look: usualLook }),
              picture: { src: 'a b".jpg', alt: text, side: 'right' },
            }),
          );
          const elements = elementsOf(clip.html);
          const links = elements.filter(({ name }) => name === 'a');
          expect(links.length).toBe(1);
          expect(links[0]?.attributes).toMatchObject({
            href: link.address,
            rel: 'sponsored nofollow noopener',
            target: '_blank',
            referrerpolicy: 'no-referrer-when-downgrade',
            ...(title !== '' && { title: sameNewlines(title) }),
          });
          const allowed = { picture: ['a', 'img'], post: ['p', 'a'], mail: ['p', 'a'] }[form as string] ?? [
            'a',
          ];
          expect(elements.every(({ name }) => allowed.includes(name))).toBe(true);
          if (form === 'picture')
            expect(elements[1]?.attributes).toMatchObject({ src: 'a b".jpg', alt: sameNewlines(text) });
          else if (form !== 'post') expect(links[0]?.text).toBe(sameNewlines(text));
        },
      ),
      { numRuns: 2000 },
    ));
  /** A parser turns every kind of line end into one, and drops a zero byte (HTML standard, §13.2.3.5 and §13.2.5). */
  const sameNewlines = (text: string) => text.replace(/\r\n?/g, '\n').replaceAll('\0', '');

  it('of a text field is the address alone, and of a rich editor the link', () => {
    expect(clipOf('link', copied()).plain).toBe('https://see.nightledge.example/dob-8~saturn-guide');
    expect(elementsOf(clipOf('link', copied()).html)[0]?.text).toBe('8-inch Dobsonian');
  });
  it('of a picture has its words, its size and its side, inside the very same link', () => {
    const [link, picture] = elementsOf(plainOf('picture'));
    expect(link?.attributes).toEqual(elementsOf(plainOf('html'))[0]?.attributes);
    expect(picture?.attributes).toEqual({
      src: 'dob-8.jpg',
      alt: 'A Dobsonian at dusk',
      width: '320',
      height: '240',
      style: 'float:left;margin:0 16px 12px 0',
    });
  });
  it('of a post has the disclosure before the link, and the link last', () =>
    expect(plainOf('post')).toBe(
      '8-inch Dobsonian\n\nThis link pays me if you buy.\n\nhttps://see.nightledge.example/dob-8~saturn-guide',
    ));
});

describe('the text for a mail', () => {
  it('has the link in its words, and its disclosure below; as plain text the address', () => {
    expect(plainOf('mail')).toBe(
      '8-inch Dobsonian\nhttps://see.nightledge.example/dob-8~saturn-guide\n\nLinks in this mail pay us.',
    );
    expect(elementsOf(clipOf('mail', copied()).html).map(({ name, text }) => [name, text])).toEqual([
      ['p', '8-inch Dobsonian'],
      ['a', '8-inch Dobsonian'],
      ['p', 'Links in this mail pay us.'],
    ]);
  });
});

describe('Markdown', () => {
  const read = {
    micromark: (text: string) => micromark(text),
    'markdown-it': (text: string) => new MarkdownIt().render(text),
  };
  // Held against two readers of CommonMark that are not ours.
  it.each(Object.entries(read))('is one link with the very words for %s', (_name, render) =>
    fc.assert(
      fc.property(
        fc.oneof(fc.constantFrom(...hostile), fc.string({ maxLength: 60 })),
        fc.oneof(fc.constantFrom(''), fc.constantFrom(...hostile)),
        (text, title) => {
          fc.pre(/[a-z0-9]/i.test(text) && !/[^\x20-\x7e\n\r\t\u00a0-\uffff]/u.test(text));
          const elements = elementsOf(
            render(plainOf('markdown', { link: placed({ text, marks: { ...marks, title } }) })),
          );
          expect(elements.map(({ name }) => name)).toEqual(['p', 'a']);
          expect(elements[1]?.attributes.href).toBe('https://see.nightledge.example/dob-8~saturn-guide');
          expect(elements[1]?.text).toBe(text.replace(/\s+/g, ' ').trim());
          if (title !== '') expect(elements[1]?.attributes.title).toBe(title.replace(/\s+/g, ' ').trim());
        },
      ),
      { numRuns: 1000 },
    ),
  );
  it.each([
    'https://t.harrowmead.example/r?by=nl-4471&copy=2&ref1=&page=https%3A%2F%2Fshop.example%2Fa',
    'https://t.harrowmead.example/r?by=1&copy;=2&x=',
    'https://t.harrowmead.example/kit_(new)_*x*_/a[1]?b=(c',
    'https://t.harrowmead.example/a|b?c=%7Cd',
    'https://t.harrowmead.example/a?b=\\)c\\',
  ])('sends the bytes of %s as they are', (address) => {
    for (const render of Object.values(read)) {
      const [, link] = elementsOf(render(plainOf('markdown', { link: placed({ address }) })));
      // A reader may percent-encode what no address may hold as it is; nothing else is touched.
      expect(decodeURI(link?.attributes.href ?? '')).toBe(decodeURI(address));
    }
  });
});

describe('what forums write', () => {
  it('has no bracket that ends it early', () => {
    for (const text of hostile) {
      const code = plainOf('bbcode', { link: placed({ text, address: 'https://a.example/?x[]=1' }) });
      expect(code.match(/[[\]]/g)?.join('')).toBe('[][]');
      expect(code).toMatch(/^\[url=https:\/\/a\.example\/\?x%5B%5D=1\][^\n]*\[\/url\]$/);
    }
  });
});

describe('several links', () => {
  const several = hostile.map((text, i) => ({
    link: placed({ text, address: `https://see.nightledge.example/l${i}` }),
    from: i % 2 === 0 ? 'Umbra & Finch' : 'A | B <i>',
  }));
  it.each(severalForms)('as %s are all there, in their order, with their marks for a rich editor', (form) => {
    const links = elementsOf(clipOfSeveral(form, several).html).filter(({ name }) => name === 'a');
    expect(links.map(({ attributes }) => attributes.href)).toEqual(several.map(({ link }) => link.address));
    expect(links.map(({ text }) => text)).toEqual(hostile.map((text) => text.replace(/\r\n?/g, '\n')));
    expect(links.every(({ attributes }) => attributes.rel === 'sponsored nofollow noopener')).toBe(true);
  });
  it('as a Markdown table have a row each, whatever stands in them', () => {
    const html = new MarkdownIt().render(clipOfSeveral('markdown table', several).plain);
    const elements = elementsOf(html);
    expect(elements.filter(({ name }) => name === 'tr').length).toBe(several.length + 1);
    const cells = elements.filter(({ name }) => name === 'td');
    expect(cells.length).toBe(several.length * 2);
    expect(cells.filter((_, i) => i % 2 === 0).map(({ text }) => text)).toEqual(
      hostile.map((text) => text.replace(/\s+/g, ' ')),
    );
    expect(cells[3]?.text).toBe('A | B <i>');
  });
  it('as addresses are one a line', () =>
    expect(clipOfSeveral('addresses', several).plain.split('\n').length).toBe(several.length));
});
