import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  fillParameters,
  fillSlots,
  hostOf,
  networkRecord,
  proposeTitle,
  readLink,
  splitLink,
} from './index.ts';

const join = (link: string) =>
  splitLink(link)
    .parts.map((part) => part.text)
    .join('');

describe('splitting a link', () => {
  it('gives back the same bytes when joined, whatever was pasted', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => void expect(join(text)).toBe(text)));
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (url) => {
        expect(join(url)).toBe(url);
      }),
    );
  });

  // The components of the example in RFC 3986, section 3 and appendix B.
  it('finds the components of RFC 3986', () => {
    const split = splitLink('http://www.ics.uci.example/pub/ietf/uri/?q=1#Related');
    expect([split.scheme, split.authority, split.path, split.query, split.fragment]).toEqual([
      'http',
      'www.ics.uci.example',
      '/pub/ietf/uri/',
      'q=1',
      'Related',
    ]);
    expect(splitLink('foo://example.test:8042/over/there?name=ferret#nose').authority).toBe(
      'example.test:8042',
    );
    expect(splitLink('urn:example:animal:ferret:nose').path).toBe('example:animal:ferret:nose');
  });

  // RFC 3986 section 5.4: the references of the normal examples that have an authority, a query or a fragment.
  it.each([
    ['//g', '', 'g', '', undefined, undefined],
    ['?y', '', '', '', 'y', undefined],
    ['g?y', '', '', 'g', 'y', undefined],
    ['#s', '', '', '', undefined, 's'],
    ['g?y#s', '', '', 'g', 'y', 's'],
    [';x', '', '', ';x', undefined, undefined],
    ['g;x?y#s', '', '', 'g;x', 'y', 's'],
    ['../../g', '', '', '../../g', undefined, undefined],
    ['g?y/../x', '', '', 'g', 'y/../x', undefined],
    ['g#s/./x', '', '', 'g', undefined, 's/./x'],
  ])('%s', (text, scheme, authority, path, query, fragment) =>
    expect(splitLink(text)).toMatchObject({ scheme, authority, path, query, fragment }),
  );

  // WHATWG URL as Node implements it is the reference for hosts.
  it('agrees with URL on the host', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true }), (url) => {
        expect(hostOf(url)).toBe(new URL(url).hostname);
      }),
    ));

  it('knows user and port from the host', () =>
    expect(hostOf('http://a:b@Shop.example:8080/x')).toBe('shop.example'));
});

describe('an empty last parameter', () => {
  // Three numbers and empty parameters at the end, where leaving off the last one breaks the link: common practice.
  const link = 'https://t.vantry.example/b?44.1093.2&x=&y=&';
  it('is kept', () => {
    expect(join(link)).toBe(link);
    expect(readLink(link).link).toBe(link);
  });
  it('is kept when a slot is filled beside it', () =>
    expect(fillParameters('https://t.vantry.example/b?1=44&sid=&x=', { sid: '{click}' })).toBe(
      'https://t.vantry.example/b?1=44&sid={click}&x=',
    ));
});

describe('filling parameters', () => {
  it.each([
    ['https://a.example/r', 'https://a.example/r?ref1={click}'],
    ['https://a.example/r?', 'https://a.example/r?ref1={click}'],
    ['https://a.example/r?x=1#top', 'https://a.example/r?x=1&ref1={click}#top'],
    ['https://a.example/r?ref1&x=1', 'https://a.example/r?ref1={click}&x=1'],
    ['https://a.example/r?x=%7b&ref1=old', 'https://a.example/r?x=%7b&ref1={click}'],
  ])('%s', (link, filled) => expect(fillParameters(link, { ref1: '{click}' })).toBe(filled));

  it('changes no other byte', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (url) => {
        const filled = fillParameters(url, { ref1: '{click}' });
        const without = filled.replace(/[?&]ref1=\{click\}/, '');
        fc.pre(!/ref1/.test(url));
        expect([url, url.replace(/\?(?=#|$)/, ''), url.replace(/&(?=#|$)/, '')]).toContain(without);
      }),
    ));
});

describe('reading a tracking link', () => {
  const link =
    'https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1=&page=https%3A%2F%2Fpolehouse.example%2Fkits%2Fsaturn';

  it('knows a network that ships and the role of every parameter', () => {
    const linkParts = readLink(link);
    expect(linkParts.known?.name).toBe('Harrowmead');
    expect(linkParts.programName).toBe('Polehouse Optics');
    expect(linkParts.pairs.map((pair) => pair.role)).toEqual(['account', 'program', 'slot', 'page']);
    expect(linkParts.page).toBe('https://polehouse.example/kits/saturn');
    expect(proposeTitle(linkParts)).toBe('Saturn');
  });

  it('fills the click ID and the source and nothing else', () =>
    expect(fillSlots(readLink(link))).toBe(
      'https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1={click}&page=https%3A%2F%2Fpolehouse.example%2Fkits%2Fsaturn&ref2={source}',
    ));

  it('leaves a word somebody put into a slot', () =>
    expect(fillSlots(readLink('https://t.harrowmead.example/r?ref1=blog'))).toBe(
      'https://t.harrowmead.example/r?ref1=blog&ref2={source}',
    ));

  it('guesses roles of an unknown network by value and by name, and gives its reason', () => {
    const linkParts = readLink('https://x.example/c?z=9&subid=&u=https%253A%252F%252Fshop.example%252Fa');
    expect(linkParts.pairs.map((pair) => pair.role)).toEqual(['other', 'slot', 'page']);
    expect(linkParts.page).toBe('https://shop.example/a');
    for (const pair of linkParts.pairs) expect(pair.reason).toMatch(/\.$/);
  });

  it('takes the register before what ships', () => {
    const shipped = readLink(link).known;
    if (!shipped) throw new Error('Harrowmead ships');
    const keys = { key: 'k'.repeat(24), pixelKey: 'p'.repeat(24) };
    const network = { ...networkRecord(shipped, 'net_h', keys), name: 'My Harrowmead' };
    expect(readLink(link, [network]).network?.name).toBe('My Harrowmead');
    expect(readLink(link, [network]).known).toBeUndefined();
  });
});
