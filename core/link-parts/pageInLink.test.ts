import { describe, expect, it } from 'vitest';
import { readPage } from './index.ts';

const base = 'https://shop.example/a/b';

describe('a page', () => {
  it('tells its title, description and picture, as the Open Graph names them and as HTML does', () => {
    expect(
      readPage(
        `<title>Plain</title><meta property="og:title" content="Saturn kit"><meta name="description" content="Rings.">
         <meta property="og:image" content="/p.jpg">`,
        base,
      ),
    ).toMatchObject({ title: 'Saturn kit', description: 'Rings.', picture: 'https://shop.example/p.jpg' });
    expect(readPage('<title>Plain</title>', base)).toMatchObject({ title: 'Plain', picture: '' });
  });

  // Forms that the HTML standard's shared declarative refresh steps accept (§4.2.5.3).
  it.each([
    ['0;url=/next', '/next'],
    ['0; URL=/next', '/next'],
    ["5;url='/next'", '/next'],
    ['0 , /next', '/next'],
    ['3; url="/a;b"', '/a;b'],
  ])('refreshed by %s leads on', (content, to) =>
    expect(
      readPage(`<meta http-equiv="Refresh" content='${content.replaceAll("'", '&#39;')}'>`, base).next,
    ).toEqual({
      url: new URL(to, base).href,
      by: 'refresh',
    }),
  );

  it.each([
    ['<script>window.location.href = "https:\\/\\/x.example\\/1"</script>', 'https://x.example/1'],
    ["<script>location.replace('/2')</script>", 'https://shop.example/2'],
    ['<script>top.location="\\u002f3"</script>', 'https://shop.example/3'],
  ])('left by script leads on: %s', (html, url) =>
    expect(readPage(html, base).next).toEqual({ url, by: 'script' }),
  );

  it.each([
    '<meta http-equiv="refresh" content="30">',
    '<script>var location = 1; f("x")</script>',
    // Given twice, computed, or not given at all, it may be anything.
    '<script>var u = "/1"; if (x) u = "/2"; location.href = u;</script>',
    '<script>var u = base + "/1"; location.href = u;</script>',
    '<script>location.href = u;</script>',
    '<script>if (u == "/1") location.href = u;</script>',
    '<p>location</p>',
  ])('stays: %s', (html) => expect(readPage(html, base).next).toBeUndefined());

  it('says when there is nothing left to buy, in its headings only', () => {
    expect(readPage('<h1>Currently unavailable</h1>', base).dead).toBe('Currently unavailable');
    expect(readPage('<h1>Moon filter</h1><p>Other colours are sold out.</p>', base).dead).toBeUndefined();
  });
});
