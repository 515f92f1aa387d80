import { describe, expect, it } from 'vitest';
import { foldText, hostIn, proposeSlug } from './index.ts';
import { searchLinks } from '../link-parts/index.ts';
import { linkRecord } from '../link-parts/testing/records.ts';

describe('a text that is searched in', () => {
  it('is found with and without its accents, ß as ss', () => {
    const links = ['Größe der Krater', 'Żółty pokrowiec', 'Éclairage rouge', 'Plain'].map((title, i) =>
      linkRecord({ id: `lnk_${i}`, slug: `l${i}`, title, destination: 'https://a.example/' }),
    );
    const found = (words: string) => searchLinks(words, links).map(({ title }) => title);
    expect(found('grosse')).toEqual(['Größe der Krater']);
    expect(found('GRÖSSE krater')).toEqual(['Größe der Krater']);
    expect(found('zolty')).toEqual(['Żółty pokrowiec']);
    expect(found('eclair')).toEqual(['Éclairage rouge']);
  });

  it('makes the same slugs as before', () => {
    expect(proposeSlug('Größe & Œuvre')).toBe('groesse-oeuvre'.replace('oe', 'o'));
    expect(foldText('Sternwarte 東京')).toBe('sternwarte 東京');
  });
});

describe('the host in what is typed', () => {
  it.each([
    ['see.nightledge.example', 'see.nightledge.example'],
    ['  See.Nightledge.Example ', 'see.nightledge.example'],
    ['https://see.nightledge.example/go/', 'see.nightledge.example'],
    ['http://see.nightledge.localhost:4600/x?y#z', 'see.nightledge.localhost'],
    ['see.nightledge.example/go/kit', 'see.nightledge.example'],
    // RFC 3492, by the URL standard.
    ['bücher.example', 'xn--bcher-kva.example'],
    ['not a host', 'not a host'],
    ['', ''],
  ])('%j is %j', (typed, host) => expect(hostIn(typed)).toBe(host));
});
