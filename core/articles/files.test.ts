import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { editsOf, makeLinkReader, makeLooker, readArticles, usualArticles } from './index.ts';
import { register } from './testing/register.ts';

const looker = makeLooker(makeLinkReader(register()), usualArticles);
const utf8 = (text: string) => new TextEncoder().encode(text);
const latin1 = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const wide = (text: string, isLittle: boolean) => {
  const bytes = new Uint8Array(2 + text.length * 2);
  const view = new DataView(bytes.buffer);
  [0xfeff, ...Array.from({ length: text.length }, (_, i) => text.charCodeAt(i))].forEach((unit, i) => {
    view.setUint16(i * 2, unit, isLittle);
  });
  return bytes;
};
const hex = (bytes: Uint8Array) => Array.from(bytes, (byte) => byte.toString(16)).join(' ');
const fileOf = (name: string, bytes: Uint8Array, encoding?: string) => {
  const read = readArticles(name, bytes, encoding);
  if (!read.ok) throw new Error(read.says);
  return read.read;
};
/** The bytes of a file once all that is found in it is accepted. */
const mended = (name: string, bytes: Uint8Array, encoding?: string) => {
  const { file, articles } = fileOf(name, bytes, encoding);
  return file.write(
    articles.flatMap((article) => article.place(editsOf(looker.look(article, article.source).finds))),
  );
};

describe('the bytes of a file', () => {
  const html = '<p>Größe “8”: a torch</p>\r\n<p>é\u0000'.replace('\u0000', '');
  it.each([
    ['UTF-8', utf8(html), 'utf-8'],
    ['UTF-8 with a mark', utf8(`\uFEFF${html}`), 'utf-8'],
    ['UTF-16', wide(html, true), 'utf-16le'],
    ['UTF-16, the other way round', wide(html, false), 'utf-16be'],
    ['Windows-1252, guessed', latin1('<p>Gr\xf6\xdfe \x938\x94: a torch</p>'), 'windows-1252'],
    [
      'ISO 8859-2, as it says',
      latin1('<meta charset="iso-8859-2"><p>\xb3\xf3d\xbc: a torch</p>'),
      'iso-8859-2',
    ],
    [
      'Shift JIS, as it says',
      Uint8Array.from([
        ...utf8('<meta charset=shift_jis><p>'),
        0x93,
        0x56,
        0x91,
        0xcc,
        ...utf8(' torch</p>'),
      ]),
      'shift_jis',
    ],
  ])('of %s stay as they are, but for what is put in', (_, bytes, encoding) => {
    const { file } = fileOf('a.html', bytes);
    expect(file.encoding).toBe(encoding);
    expect(hex(file.write([]))).toBe(hex(bytes));
    const changed = mended('a.html', bytes);
    // What was there is there still: all of it up to the disclosure, and all of it from the word on.
    const tail = bytes.slice(-(encoding.startsWith('utf-16') ? 8 : 4));
    expect(hex(changed).endsWith(hex(tail))).toBe(true);
    const again = fileOf('a.html', changed, encoding);
    expect(again.file.text).toContain('<a href="https://see.nightledge.example/red-lamp~a"');
  });

  it('writes what an encoding has no letter for as a reference', () => {
    const { file } = fileOf('a.html', latin1('<meta charset="iso-8859-1"><p>torch'));
    expect(new TextDecoder('latin1').decode(file.write([{ start: 0, end: 0, text: 'ő…' }]))).toMatch(
      /^&#337;&#8230;<meta/,
    );
  });

  it('any bytes that are read are written back the same', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 60 }),
        fc.constantFrom('a.html', 'a.md', 'a.mdx'),
        (bytes, name) => {
          const read = readArticles(name, bytes);
          if (!read.ok) expect(read.says.length).toBeGreaterThan(20);
          else expect(hex(read.read.file.write([]))).toBe(hex(bytes));
        },
      ),
      { numRuns: 3000 },
    );
  });

  it.each([
    ['a picture', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a]), /^It is a picture/],
    ['a document of an office program', Uint8Array.from([0x50, 0x4b, 3, 4, 20]), /ZIP archive/],
    ['a program', Uint8Array.from([0x7f, 0x45, 0x4c, 0x46, 2, 1, 0, 0]), /zero bytes/],
    ['60 MB', new Uint8Array(60_000_000).fill(0x61), /It has 60 MB. Articles are read up to 50 MB/],
    [
      'UTF-8 that is none',
      Uint8Array.from([...utf8('<meta charset="utf-8"><p>Gr'), 0xf6]),
      /says it is UTF-8, and is not/,
    ],
    ['UTF-16 that was cut', wide('torch', true).slice(0, 7), /./],
    ['XML that is no export', utf8('<?xml version="1.0"?><plan/>'), /./],
  ])('says what is wrong with %s', (what, bytes, says) => {
    const read = readArticles(what === 'XML that is no export' ? 'a.xml' : 'a.html', bytes);
    expect(read.ok ? '' : read.says).toMatch(says);
  });

  it('is read as a person says', () => {
    const bytes = Uint8Array.from([...utf8('<meta charset="utf-8"><p>torch '), 0xf6]);
    expect(fileOf('a.html', bytes, 'windows-1252').file.text).toContain('torch ö');
  });
});

describe('an export of a blog', () => {
  const item = (title: string, content: string) =>
    `<item><title>${title}</title><link>https://nightledge.example/${title.toLowerCase()}/</link><content:encoded>${content}</content:encoded><excerpt:encoded><![CDATA[torch]]></excerpt:encoded></item>`;
  const rss = (items: string) =>
    `<?xml version="1.0" encoding="UTF-8"?>\r\n<!-- torch -->\n<rss version="2.0" xmlns:content="http://purl.org/rss/1.0/modules/content/"><channel><title>torch</title>${items}</channel></rss>\n`;

  it('is written back as one file, and nothing but its articles changes', () => {
    const before = rss(
      item('Lamps', '<![CDATA[<p>A torch & more</p>]]>') +
        item('Moons', '&lt;p&gt;A torch &amp;amp; more&lt;/p&gt;') +
        item('Split', '<![CDATA[<p>code ]]]]><![CDATA[> and a torch</p>]]>') +
        item('Empty', ''),
    );
    const { articles, isExport } = fileOf('blog.xml', utf8(before));
    expect(isExport).toBe(true);
    expect(articles.map(({ title, page, source, text }) => [title, page, source, text])).toEqual([
      ['Lamps', 'https://nightledge.example/lamps/', 'lamps', '<p>A torch & more</p>'],
      ['Moons', 'https://nightledge.example/moons/', 'moons', '<p>A torch &amp; more</p>'],
      ['Split', 'https://nightledge.example/split/', 'split', '<p>code ]]> and a torch</p>'],
    ]);
    const after = new TextDecoder().decode(mended('blog.xml', utf8(before)));
    const again = fileOf('blog.xml', utf8(after));
    for (const { text, source } of again.articles) {
      expect(text).toContain(`<a href="https://see.nightledge.example/red-lamp~${source}"`);
      expect(text).toMatch(
        /^<p>Some links on this page pay us if you buy\. It costs you nothing\.<\/p>\n<p>/,
      );
    }
    const without = (xml: string) => xml.replace(/<content:encoded>[\s\S]*?<\/content:encoded>/g, '');
    expect(without(after)).toBe(without(before));
  });

  it('cut anywhere gives the whole articles before, and says which one it ends in', () => {
    const whole = rss(
      item('Lamps', '<![CDATA[<p>A torch</p>]]>') + item('Moons', '<![CDATA[<p>8-inch Dobsonian</p>]]>'),
    );
    for (let end = whole.indexOf('</content:encoded>') + 20; end < whole.indexOf('</rss>'); end += 3) {
      const { articles, left } = fileOf('blog.xml', utf8(whole.slice(0, end)));
      expect(articles[0]?.text).toBe('<p>A torch</p>');
      if (articles.length === 2) expect(articles[1]?.text).toBe('<p>8-inch Dobsonian</p>');
      else if (end > whole.indexOf('8-inch')) expect(left[0]).toMatch(/^The export ends within “Moons”/);
    }
    const none = readArticles('blog.xml', utf8(whole.slice(0, whole.indexOf('torch</p>'))));
    expect(none.ok ? '' : none.says).toMatch(/cut short|without whole articles/);
  });
});
