import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Branch, Conditions } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { anyLink } from '../catalogue/testing/anyLink.ts';
import { branchWarnings, decide, prepareLink } from './index.ts';

const now = Date.parse('2026-11-27T10:00:00Z');
const branch = (id: string, when: Conditions): Branch => ({
  id,
  name: '',
  when,
  destination: 'https://a.example/',
  weight: 1,
});
const visitor = {
  at: now,
  source: '',
  country: 'DE',
  device: 'phone' as const,
  language: 'de-DE',
  returning: false,
};
const warned = (whens: readonly Conditions[], visitors = [visitor]) =>
  branchWarnings(
    whens.map((when, i) => branch(`b${i}`, when)),
    'Europe/Berlin',
    now,
    visitors,
  ).map(({ branch: id, words }) => `${id} ${words}`);

describe('what is said of a branch where it is entered', () => {
  it('names a country that is none (ISO 3166-1; UK is reserved, and GB the code)', () => {
    expect(warned([{ countries: ['UK'] }])).toEqual([
      'b0 “UK” is no country code; GB is the one for United Kingdom.',
    ]);
    expect(warned([{ countries: ['XQ', 'DE', 'EU', 'DACH'] }])).toEqual([
      'b0 “XQ” is no country: nobody comes from there.',
    ]);
    expect(warned([{ countries: ['GB', 'GR', 'EURO'] }])).toEqual([]);
  });

  it('says that a stretch of days is over, by the clock of its zone', () => {
    expect(warned([{ days: { until: '2026-11-26' } }])).toEqual([
      'b0 It ended on 2026-11-26: nobody comes here any more.',
    ]);
    expect(warned([{ days: { until: '2026-11-27' } }])).toEqual([]);
    // In Kiritimati it is the 28th already.
    expect(warned([{ days: { until: '2026-11-27' }, zone: 'Pacific/Kiritimati' }])).toHaveLength(1);
  });

  it('says that nobody reaches a branch whose visitors an earlier one takes', () => {
    expect(warned([{}, { devices: ['phone'] }])[0]).toContain(
      'b1 Nobody comes here: branch 1 asks for nothing',
    );
    expect(warned([{ countries: ['EU'] }, { countries: ['DE'], devices: ['phone'] }])[0]).toContain(
      'b1 Nobody comes here: branch 1 takes all',
    );
    expect(warned([{ languages: ['de'] }, { languages: ['de-AT'] }])).toHaveLength(1);
    expect(warned([{ languages: ['de'] }, { languages: ['den'] }])).toEqual([]);
    // The very same conditions share by weight.
    expect(warned([{ devices: ['phone'] }, { devices: ['phone'] }])).toEqual([]);
    expect(warned([{ countries: ['DE'] }, { countries: ['EU'] }])).toEqual([]);
    // Two in the morning of a Tuesday belongs to the night of Monday, and is no Monday.
    const night = { from: '22:00', until: '04:00' };
    expect(warned([{ weekdays: [1] }, { weekdays: [1], hours: night }])).toEqual([]);
  });

  it('holds conditions against the visitors that came, once there are some', () => {
    const came = Array.from({ length: 40 }, () => visitor);
    expect(warned([{ languages: ['german'] }], came)).toEqual([
      'b0 None of the last 40 visitors would have come here: reads german.',
    ]);
    expect(warned([{ languages: ['de'] }], came)).toEqual([]);
    expect(warned([{ sources: ['flyer'] }], came.slice(0, 5))).toEqual([]);
  });

  it('and who is said not to come never does: property', () => {
    const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
    fc.assert(
      fc.property(
        anyLink({ id: 'lnk_kit', domain: domain.id, slug: 'kit' }),
        fc.record({
          country: fc.constantFrom('DE', 'NL', 'JP', 'US', ''),
          device: fc.constantFrom('phone' as const, 'tablet' as const, 'desktop' as const),
          language: fc.constantFrom('de-DE', 'en', 'nl-BE', ''),
          source: fc.constantFrom('', 'flyer', 'newsletter'),
          visitor: fc.constantFrom('a', 'b', 'c'),
          hour: fc.integer({ min: 0, max: 200 }),
        }),
        (any, { hour, ...asked }) => {
          const { hours: _, ...link } = any;
          const ready = prepareLink(link, domain.hop, domain);
          if (!ready.ok) return;
          const at = now + hour * 3_600_000;
          const { branch: taken } = decide(ready.value, { ...asked, at, query: '', returning: false });
          const unreached = branchWarnings(link.branches ?? [], domain.zone, now, [])
            .filter(({ words }) => words.startsWith('Nobody'))
            .map(({ branch: id }) => id);
          expect(unreached).not.toContain(taken);
        },
      ),
      { numRuns: 3000 },
    );
  });
});
