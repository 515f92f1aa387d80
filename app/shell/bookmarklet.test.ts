import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bookmarklet, pageIn } from './bookmarklet.ts';

/** What the browser opens when the script runs on a page: the script itself, with the page's `location` and `window`. */
const openedFrom = (page: string): string => {
  const code = decodeURIComponent(bookmarklet('https://app.example').replace(/^javascript:/, ''));
  let opened = '';
  new Function('window', 'location', code)({ open: (url: string) => (opened = url) }, { href: page });
  return new URL(opened).hash;
};

describe('the page a bookmarklet was pressed on', () => {
  it.each([
    'https://shop.example/search?q=fish%26chips&x=50%25',
    'https://shop.example/a%20b?c=%2520#d%23e',
    'https://shop.example/?bad=%E4&worse=%',
    'https://shop.example/grün?x=ö&y=+&z=\u{1f30c}',
  ])('comes through: %s', (page) => expect(pageIn(openedFrom(page))).toBe(page));

  it('comes through decoded exactly once, whatever it is', () =>
    fc.assert(
      fc.property(
        fc.webUrl({ withQueryParameters: true, withFragments: true }),
        fc.stringMatching(/^(?:%[0-9A-F]{2}|[&=+#?/a-z %])*$/),
        (url, more) => {
          const page = `${url}${url.includes('#') ? '' : '#'}${more}`;
          expect(pageIn(openedFrom(page))).toBe(page);
        },
      ),
    ));

  it('is none where the address holds something else', () => {
    for (const hash of ['', '#page=', '#key=abc', '#page=javascript%3Aalert(1)', '#page=%E4'])
      expect(pageIn(hash)).toBeUndefined();
  });
});
