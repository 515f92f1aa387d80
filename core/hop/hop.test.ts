import fc from 'fast-check';
import { decodeTime, isValid } from 'ulid';
import { describe, expect, it } from 'vitest';
import type { HopChoices } from '#core/catalogue';
import { isUlid } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import type { HopLink } from './index.ts';
import {
  cacheControl,
  clickId,
  clickTime,
  compile,
  compileDestination,
  dayIn,
  deviceOf,
  expand,
  passQuery,
  prepareLink,
  cameBy,
  landedBy,
  readTarget,
  respond,
} from './index.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const request = {
  at: 1_795_442_531_123,
  source: '',
  query: '',
  country: 'DE',
  device: 'phone' as const,
  language: 'de-DE',
  visitor: 'f3a91c0011223344',
  returning: false,
};
const place = { host: domain.host, path: 'saturn-kit', nonce: () => 'n0' };

const made = (destination: string, more: Partial<HopChoices> = {}): HopLink => {
  const link = prepareLink({ id: 'lnk_1', destination, asText: [] }, { ...domain.hop, ...more }, domain);
  if (!link.ok) throw new Error(link.problems[0]?.message);
  return link.value;
};
const headersOf = (link: HopLink, more: Partial<typeof request> = {}) => {
  const { headers } = respond(
    link,
    { branch: 'everyone' },
    { ...request, ...more },
    '01M84BDPSKXE4HN0RD2V6W3PBC',
    place,
  );
  return Object.fromEntries(headers.flatMap((name, i) => (i % 2 === 0 ? [[name, headers[i + 1]]] : [])));
};

describe('click IDs', () => {
  // The `ulid` package is the reference for form and time.
  it('are ULIDs that tell their time', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 2 ** 48 - 1 }),
        fc.uint8Array({ minLength: 10, maxLength: 10 }),
        (at, bytes) => {
          const id = clickId(at, bytes);
          expect(isValid(id)).toBe(true);
          expect(decodeTime(id)).toBe(at);
          expect(clickTime(id)).toBe(at);
          expect(clickTime(id.toLowerCase())).toBe(at);
        },
      ),
    ));

  it('carry all 80 random bits', () => {
    // 80 bits in Crockford's base 32 by way of a big integer, the plain way.
    const plain = (bytes: Uint8Array) => {
      let n = bytes.reduce((sum, byte) => sum * 256n + BigInt(byte), 0n);
      let text = '';
      for (let i = 0; i < 16; i++, n /= 32n)
        text = '0123456789ABCDEFGHJKMNPQRSTVWXYZ'.charAt(Number(n % 32n)) + text;
      return text;
    };
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 13, maxLength: 13 }), (bytes) => {
        expect(clickId(0, bytes, 3)).toBe('0000000000' + plain(bytes.slice(3)));
      }),
    );
  });

  it('are told from other words', () => {
    expect(isUlid('{click}')).toBe(false);
    expect(isUlid('81M84BDPSKXE4HN0RD2V6W3PBC')).toBe(false);
    expect(clickTime('newsletter')).toBeUndefined();
  });
});

describe('templates', () => {
  // RFC 6570 §3.2.2, the examples of level 1, with the values given there.
  it.each([
    ['{var}', 'value'],
    ['{hello}', 'Hello%20World%21'],
    ['{half}', '50%25'],
    ['O{empty}X', 'OX'],
    ['O{undef}X', 'OX'],
  ])('%s expands to %s', (text, expected) => {
    const values: Record<string, string> = { var: 'value', hello: 'Hello World!', half: '50%', empty: '' };
    const compiled = compile(text, ['var', 'hello', 'half', 'empty', 'undef']);
    expect(compiled.ok && expand(compiled.value, (name) => values[name])).toBe(expected);
  });

  it('leave every byte that is no token as it is', () =>
    fc.assert(
      fc.property(
        fc.string().filter((text) => !/[{}]/.test(text)),
        (text) => {
          const compiled = compile(`${text}{click}${text}`, ['click']);
          expect(compiled.ok && expand(compiled.value, () => 'X')).toBe(`${text}X${text}`);
        },
      ),
    ));

  it('send a network’s own braces only when they are marked as text', () => {
    const link = 'https://n.example/r?a={{ad}}&c={click}';
    const refused = compileDestination(link);
    expect(!refused.ok && refused.problems[0]?.message).toMatch(/\{\{ad\}\} is no token of ours/);
    const taken = compileDestination(link, ['{{ad}}']);
    expect(taken.ok && expand(taken.value, () => 'X')).toBe('https://n.example/r?a={{ad}}&c=X');
  });

  it('send non-ASCII text as percent-encoded UTF-8', () => {
    const compiled = compileDestination('https://n.example/ö?x=%c3%B6&名={source}');
    expect(compiled.ok && expand(compiled.value, () => 'ü/?')).toBe(
      'https://n.example/%C3%B6?x=%c3%B6&%E5%90%8D=%C3%BC%2F%3F',
    );
  });

  it.each([
    ['https://{click}.example/', 'cannot stand in the host'],
    ['https://shop.example@evil.example/', 'user name'],
    ['https://n.example/a b', 'space'],
    ['https://n.example/a\r\nSet-Cookie: x', 'line break'],
    ['https:\\\\evil.example', 'begins with'],
    ['javascript:alert(1)', 'begins with'],
    ['https://n.example:99999/', 'port'],
  ])('%s is refused', (destination, reason) => {
    const compiled = compileDestination(destination);
    expect(!compiled.ok && compiled.problems[0]?.message).toContain(reason);
  });
});

describe('a short address', () => {
  it.each([
    ['/saturn-kit', { path: 'saturn-kit', source: '', query: '', test: '' }],
    ['/Saturn-Kit/', { path: 'saturn-kit', source: '', query: '', test: '' }],
    ['/go/saturn~newsletter?kw=a', { path: 'go/saturn', source: 'newsletter', query: 'kw=a', test: '' }],
    ['/saturn%7Evideo-12', { path: 'saturn', source: 'video-12', query: '', test: '' }],
    ['/saturn?from=Flyer_1&kw=x&test=t', { path: 'saturn', source: 'Flyer_1', query: 'kw=x', test: 't' }],
    ['/saturn~a?from=b', { path: 'saturn', source: 'a', query: '', test: '' }],
    ['/saturn~-bad?from=@evil', { path: 'saturn', source: '', query: '', test: '' }],
    ['//evil.example/x', { path: '/evil.example/x', source: '', query: '', test: '' }],
  ])('%s', (target, asked) => expect(readTarget(target)).toMatchObject(asked));

  it.each([
    'http://evil.example/',
    '*',
    '/a%00b',
    '/a%zz',
    '/a%c3',
    '/a%0d%0aSet-Cookie:x',
    '/a~b%0Ac',
    '/a?x=%0d%0a',
    '/a?x=%',
    '/é',
    '/a?x=é',
  ])('%s is refused', (target) => expect(readTarget(target)).toBeUndefined());

  const first = '01M84BDPSKXE4HN0RD2V6W3PBC';
  it.each([
    [`/kit?a=1&from-click=${first}&from=flyer`, { first, source: 'flyer', query: 'a=1' }],
    [`/kit~poster?from-click=${first.toLowerCase()}`, { first, source: 'poster', query: '' }],
    ['/kit?from-click=', { first: '', query: '' }],
    [`/kit?from-click=${first}x`, { first: '', query: '' }],
    [`/kit?from-click=${'Z'.repeat(26)}`, { first: '', query: '' }],
    [`/kit?x-from-click=${first}`, { first: '', query: `x-from-click=${first}` }],
  ])('%s names the click that led to its page', (target, asked) =>
    expect(readTarget(target)).toMatchObject(asked),
  );

  it('comes by the click and source of the page’s address where it names none itself', () => {
    const page = `https://nightledge.example/kit?x=1&from-click=${first}&from=bought-a#top`;
    const none = { first: '', source: '' };
    expect(cameBy(none, page)).toEqual({ first, source: 'bought-a' });
    expect(cameBy({ first: '', source: 'own' }, page)).toEqual({ first, source: 'own' });
    // Another click than the page's: what the page says of its source is of somebody else.
    const other = { first: `${first.slice(0, -1)}D`, source: '' };
    expect(cameBy(other, page)).toEqual(other);
    // A source alone tells nothing: the page may be anybody's.
    expect(cameBy(none, 'https://elsewhere.example/?from=them')).toEqual(none);
    expect(cameBy(none, 'https://nightledge.example/')).toEqual(none);
  });

  it('takes the first of several of a name, and nothing behind #', () => {
    const page = 'https://nightledge.example/p';
    expect(landedBy(`${page}?from-click=&from-click=${first}`).first).toBe('');
    expect(landedBy(`${page}?a=1#b&from-click=${first}`).first).toBe('');
    expect(landedBy(`${page}?from-click=${first}&from=&from=flyer`)).toEqual({ first, source: '' });
  });

  // The reference is the URL standard's own reader of parameters.
  it('reads the address of such a page as browsers read it', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.constantFrom('from', 'from-click', 'a', 'xfrom'),
            fc.constantFrom(
              first,
              first.slice(1),
              'flyer',
              '',
              'a-b_c',
              '-x',
              'x'.repeat(64),
              'x'.repeat(65),
            ),
          ),
          { maxLength: 5 },
        ),
        (pairs) => {
          const page = `https://nightledge.example/p?${pairs.map(([name, value]) => `${name}=${value}`).join('&')}#from=no`;
          const said = new URL(page).searchParams;
          const click = said.get('from-click') ?? '';
          const source = said.get('from') ?? '';
          const isGood = click === first;
          expect(landedBy(page)).toEqual({
            first: isGood ? first : '',
            source: isGood && /^[A-Za-z0-9][\w-]{0,63}$/.test(source) ? source : '',
          });
        },
      ),
    ));
});

describe('a response', () => {
  const link =
    'https://t.harrowmead.example/r?by=nl&ref1={click}&ref2={source}&d={day}&g={device}-{country}-{link}';

  it('fills the tokens and nothing else', () =>
    expect(headersOf(made(link), { source: 'newsletter' })).toEqual({
      Location:
        'https://t.harrowmead.example/r?by=nl&ref1=01M84BDPSKXE4HN0RD2V6W3PBC&ref2=newsletter&d=2026-11-23&g=phone-DE-lnk_1',
      'Cache-Control': 'no-store',
      'Referrer-Policy': 'strict-origin',
      'X-Robots-Tag': 'noindex, nofollow',
      'Content-Length': '0',
    }));

  // RFC 9110 §15.4: 301 and 308 are heuristically cacheable, 302 and 307 are not.
  it.each([
    [301, false, 'private, max-age=0'],
    [308, false, 'private, max-age=0'],
    [301, true, 'private, max-age=86400'],
    [302, true, 'no-store'],
    [307, false, 'no-store'],
  ] as const)('%i with cache %s says %s', (status, cache, expected) =>
    expect(cacheControl({ status, cache })).toBe(expected),
  );

  it('hides the referrer on request', () =>
    expect(headersOf(made(link, { hideReferrer: true }))['Referrer-Policy']).toBe('no-referrer'));

  it('writes the day of the domain’s zone', () => {
    const at = Date.parse('2026-03-28T23:30:00Z');
    expect([dayIn('UTC', at), dayIn('Europe/Berlin', at), dayIn('America/Los_Angeles', at)]).toEqual([
      '2026-03-28',
      '2026-03-29',
      '2026-03-28',
    ]);
  });
});

describe('passing parameters', () => {
  it.each([
    ['https://n.example/r?a=1#top', 'b=2', 'https://n.example/r?a=1&b=2#top'],
    ['https://n.example/r', 'b=2', 'https://n.example/r?b=2'],
    ['https://n.example/r?a=1', 'a=9&%61=8&b', 'https://n.example/r?a=1&b'],
    ['https://n.example/r?a=', 'a=9', 'https://n.example/r?a='],
    [
      'https://n.example/r?',
      'u=//evil.example&v=\\evil&w=@evil',
      'https://n.example/r?u=//evil.example&v=%5Cevil&w=@evil',
    ],
  ])('%s with %s', (address, query, expected) => expect(passQuery(address, query, 'all')).toBe(expected));

  it('passes only what is on the list', () =>
    expect(passQuery('https://n.example/r', 'kw=a&x=1', ['kw'])).toBe('https://n.example/r?kw=a'));

  it('can change neither scheme, host, path nor a header, whatever is asked', () =>
    fc.assert(
      fc.property(fc.string(), fc.string(), (query, source) => {
        const asked = readTarget(`/x~${source}?${query}`);
        if (!asked) return;
        const location =
          headersOf(made('https://n.example/p/{source}?a=1', { pass: 'all' }), asked)['Location'] ?? '';
        const url = new URL(location);
        expect(url.origin).toBe('https://n.example');
        expect(url.pathname.startsWith('/p/')).toBe(true);
        expect(url.searchParams.get('a')).toBe('1');
        expect(location).toMatch(/^[\x21-\x7e]*$/);
      }),
    ));
});

describe('a device', () => {
  it.each([
    [
      'Mozilla/5.0 (Linux; Android 14; K) AppleWebKit/537.36 Chrome/140.0.0.0 Mobile Safari/537.36',
      undefined,
      'phone',
    ],
    [
      'Mozilla/5.0 (Linux; Android 14; K) AppleWebKit/537.36 Chrome/140.0.0.0 Safari/537.36',
      undefined,
      'tablet',
    ],
    ['Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/140.0.0.0 Safari/537.36', '?0', 'desktop'],
    ['Mozilla/5.0 (iPad; CPU OS 17_0 like Mac OS X) AppleWebKit/605.1.15 Mobile/15E148', undefined, 'tablet'],
  ])('%s', (agent, hint, device) => expect(deviceOf(agent, hint)).toBe(device));
});
