import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deepLink, productCode, programsFor, readLink, shopOf, stripPage } from './index.ts';
import { networkOf, programRecord as program } from './testing/records.ts';

describe('a shop', () => {
  // Public suffixes as the Public Suffix List has them: co.uk, com.br and the like.
  it.each([
    ['m.shop.co.uk', 'shop.co.uk'],
    ['www.shop.co.uk', 'shop.co.uk'],
    ['shop.com.br', 'shop.com.br'],
    ['a.b.polehouse.example', 'polehouse.example'],
    ['www.polehouse.localhost', 'polehouse.localhost'],
  ])('%s is %s', (host, shop) => expect(shopOf(host)).toBe(shop));

  it('has its joined program first', () => {
    const all = [program({ id: 'prg_b', state: 'declined' }), program()];
    expect(programsFor('https://m.polehouse.example/x', all).map((p) => p.state)).toEqual([
      'joined',
      'declined',
    ]);
    expect(programsFor('https://other.example/x', all)).toEqual([]);
  });
});

describe('a page’s own parameters', () => {
  it('lose campaign and session, and nothing else', () => {
    const { page, parts } = stripPage(
      'https://s.example/find?q=saturn+rings&utm_source=x&b=&utm_Medium&sessionid=1#k',
    );
    expect(page).toBe('https://s.example/find?q=saturn+rings&b=#k');
    expect(parts.filter((p) => !p.stays).map((p) => p.name)).toEqual([
      'utm_source',
      'utm_Medium',
      'sessionid',
    ]);
  });
  it.each([
    ...['gclid', 'gbraid', 'wbraid', 'dclid', 'fbclid', 'msclkid', 'ttclid', 'twclid', 'yclid'],
    ...['mc_cid', 'mc_eid', '_ga', '_gl', 'igshid'],
  ])('lose the advertising click ID %s, which can be kept', (name) => {
    const page = `https://s.example/find?q=saturn&${name}=Cj0KCQ-x_9&b=`;
    expect(stripPage(page).page).toBe('https://s.example/find?q=saturn&b=');
    expect(stripPage(page, [], [name]).page).toBe(page);
  });
  it('lose a session in the path too, which can be kept (RFC 3986 §3.3: parameters of a segment)', () => {
    const page = 'https://s.example/shop;jsessionid=1A2B.node/kit;size=3?q=a;b#x;jsessionid=9';
    expect(stripPage(page).page).toBe('https://s.example/shop/kit;size=3?q=a;b#x;jsessionid=9');
    expect(stripPage(page).parts[0]).toEqual({
      name: 'jsessionid',
      raw: ';jsessionid=1A2B.node',
      stays: false,
    });
    expect(stripPage(page, [], ['jsessionid']).page).toBe(page);
    expect(stripPage('https://s.example/kit;PHPSESSID=7').page).toBe('https://s.example/kit');
  });
  it('are kept and taken as the person says', () =>
    expect(stripPage('https://s.example/?utm_source=x&from=mail&a=1', ['from'], ['utm_source']).page).toBe(
      'https://s.example/?utm_source=x&a=1',
    ));
  it('stay byte for byte when none is to go', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (url) => {
        fc.pre(!/utm_|session|clid|braid|mc_|_g|igshid/i.test(url));
        expect(stripPage(url).page).toBe(url);
      }),
    ));
});

describe('a deep link', () => {
  const page = 'https://polehouse.example/kits/saturn?colour=blau&grün=1#specs';

  it('is the network’s link format around the page, encoded once', () => {
    const made = deepLink(page, networkOf('Harrowmead'), program(), 'nl-4471');
    expect(made).toEqual({
      ok: true,
      link: `https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1={click}&ref2={source}&page=${encodeURIComponent(page)}`,
    });
    expect(made.ok && readLink(made.link, [networkOf('Harrowmead')]).page).toBe(page);
  });

  it('is written after a link of its program: what that carries besides stays, account and slots are as they are set now', () => {
    const other = encodeURIComponent('https://polehouse.example/x');
    const own = `https://t.harrowmead.example/r?page=${other}&by=nl-4471&deal=2093&odd&ref1=old&z=`;
    expect(deepLink(page, networkOf('Harrowmead'), program(), 'ines', [own])).toEqual({
      ok: true,
      link: `https://t.harrowmead.example/r?page=${encodeURIComponent(page)}&by=ines&deal=2093&odd&ref1={click}&z=&ref2={source}`,
    });
  });

  it('asks for the program’s code and the account tag where they are missing: it never credits nobody', () => {
    const made = deepLink(page, networkOf('Harrowmead'), program({ code: '' }), '');
    expect(made).toMatchObject({
      ok: false,
      missing: [
        { part: 'by', role: 'account' },
        { part: 'deal', role: 'program' },
      ],
    });
    expect(!made.ok && made.message).toBe(
      'A link to this page lacks your account tag (by) and the program’s code (deal). Give it at Harrowmead first: without it nobody is credited.',
    );
  });

  it('carries the labels its program remembers', () => {
    const made = deepLink(page, networkOf('Kelvane'), program({ labels: { k3: 'nightledge' } }), 'p9');
    expect(made.ok && made.link).toContain('k1={click}&k2={source}&k3=nightledge&land=');
  });

  it('is the page itself where the shop is its own network', () =>
    expect(deepLink('https://vennor.example/dob?a=1#x', networkOf('Vennor Direct'), program(), 'nl')).toEqual(
      {
        ok: true,
        link: 'https://vennor.example/dob?a=1&friend=nl&note={click}#x',
      },
    ));

  it('has account and program at their places in host and path, the page in the format’s own coding', () => {
    const kelvane = deepLink(page, networkOf('Kelvane'), program({ code: '71' }), 'p9');
    expect(kelvane.ok && kelvane.link).toMatch(/^https:\/\/go\.kelvane\.example\/c\/p9\/71\?k1=/);
    expect(deepLink('https://umbrafinch.example/dob-8', networkOf('Osprenet'), program(), 'nl')).toEqual({
      ok: true,
      // The address in base64url as coreutils' basenc writes it.
      link: 'https://nl.click.osprenet.example/x?banner=&tag={click}&to=aHR0cHM6Ly91bWJyYWZpbmNoLmV4YW1wbGUvZG9iLTg',
    });
    expect(deepLink(page, networkOf('Osprenet'), program(), '')).toMatchObject({
      ok: false,
      missing: [{ part: '//1', role: 'account' }],
    });
  });

  it('is refused where nobody knows how its links begin', () => {
    const network = networkOf('Osprenet');
    const anyPath = { ...network, linkFormat: { ...network.linkFormat, path: '/**' } };
    const made = deepLink(page, anyPath, program(), 'nl');
    expect(!made.ok && made.message).toContain('Paste one of its links first');
  });

  it('gives back any page it was made from', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (any) => {
        const made = deepLink(any, networkOf('Harrowmead'), program(), 'nl-4471');
        expect(made.ok && readLink(made.link, [networkOf('Harrowmead')]).page).toBe(any);
      }),
    ));
});

describe('a product code', () => {
  // GTIN 4006381333931 and ISBN 9780306406157 are the worked examples of check digits (GS1; ISBN Users' Manual), from memory.
  it.each([
    ['https://s.example/pen-4006381333931', '4006381333931'],
    ['https://s.example/book/9780306406157/', '9780306406157'],
    ['https://s.example/p/QT-200', 'QT-200'],
    ['https://s.example/view?item_id=A77', 'A77'],
  ])('in %s is %s', (url, code) => expect(productCode(url)).toBe(code));
  it.each(['https://s.example/pen-4006381333932', 'https://s.example/kits/saturn', 'https://s.example/?a=1'])(
    'is not in %s',
    (url) => expect(productCode(url)).toBeUndefined(),
  );
});
