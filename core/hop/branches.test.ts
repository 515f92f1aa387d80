import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Branch, Conditions, Hours } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import type { HopRequest } from './index.ts';
import { clickId, decide, momentOf, placeOfVisitor, prepareLink, respond, simulateShares } from './index.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const noon = Date.UTC(2026, 10, 23, 11);
const request: HopRequest = {
  at: noon,
  source: '',
  query: '',
  country: 'DE',
  device: 'phone',
  language: 'de-DE',
  visitor: 'anna',
  returning: false,
};
const branch = (id: string, when: Conditions, weight = 1): Branch => ({
  id,
  name: '',
  when,
  destination: `https://polehouse.example/${id}?c={click}`,
  weight,
});
const link = (branches: Branch[], hours?: Hours) => {
  const made = prepareLink(
    {
      id: 'lnk_star',
      destination: 'https://polehouse.example/all',
      asText: [],
      branches,
      ...(hours && { hours }),
    },
    domain.hop,
    domain,
  );
  if (!made.ok) throw new Error(made.problems[0]?.message);
  return made.value;
};
const taken = (when: Conditions, more: Partial<HopRequest> = {}) =>
  decide(link([branch('b1', when)]), { ...request, ...more }).branch === 'b1';

describe('a split', () => {
  it.each<[string, Conditions, Partial<HopRequest>, Partial<HopRequest>]>([
    ['a country', { countries: ['JP'] }, { country: 'JP' }, { country: 'DE' }],
    ['a group of countries', { countries: ['EU'] }, { country: 'FR' }, { country: 'GB' }],
    ['a device', { devices: ['tablet'] }, { device: 'tablet' }, { device: 'phone' }],
    // RFC 4647 §3.3.1: "de" holds for "de-AT" and not for "den".
    ['a language', { languages: ['de'] }, { language: 'de-AT' }, { language: 'den' }],
    ['a source', { sources: ['newsletter'] }, { source: 'newsletter' }, { source: 'Newsletter' }],
    ['a returning visitor', { visitor: 'returning' }, { returning: true }, { returning: false }],
    ['a new visitor', { visitor: 'new' }, { returning: false }, { returning: true }],
    [
      'days',
      { days: { from: '2026-11-23', until: '2026-11-23' } },
      { at: Date.UTC(2026, 10, 23, 22, 59) },
      { at: Date.UTC(2026, 10, 23, 23) },
    ],
    ['a weekday', { weekdays: [1] }, { at: noon }, { at: noon + 86_400_000 }],
    ['unless known', { countries: ['DE'] }, { country: 'DE' }, { country: '' }],
  ])('by %s', (_, when, fits, fails) => {
    expect(taken(when, fits)).toBe(true);
    expect(taken(when, fails)).toBe(false);
  });

  it('joins conditions by and, tries branches in order, and explains each', () => {
    const { branch: chosen, why } = decide(
      link([
        branch('b1', { countries: ['JP'] }),
        branch('b2', { devices: ['phone'], languages: ['fr'] }),
        branch('b3', { devices: ['phone'] }),
      ]),
      request,
    );
    expect(chosen).toBe('b3');
    expect(why.map((reason) => reason.because)).toEqual([
      'Not this one: it is for JP, and the country is DE.',
      'Not this one: it is for readers of fr, and the browser asks for de-DE.',
      'Everything it asks for holds.',
    ]);
    expect(decide(link([branch('b1', { countries: ['JP'] })]), request).why.at(-1)).toMatchObject({
      branch: 'everyone',
      taken: true,
      because: 'No other branch fits.',
    });
  });

  it('sends each branch to its own destination, with the tokens filled', () => {
    const ready = link([branch('b1', { countries: ['DE'] })]);
    const id = clickId(noon, new Uint8Array(10));
    const place = { host: domain.host, path: 'x', nonce: () => 'n0' };
    expect(respond(ready, { branch: 'b1' }, request, id, place).headers[1]).toBe(
      `https://polehouse.example/b1?c=${id}`,
    );
    expect(respond(ready, { branch: 'everyone' }, request, id, place).headers[1]).toBe(
      'https://polehouse.example/all',
    );
  });

  it('keeps a visitor on the same branch and shares as the weights say', () => {
    const ready = link([branch('b1', {}, 3), branch('b2', {}, 1)]);
    const counts = new Map<string, number>();
    const visitors = 100_000;
    for (let n = 0; n < visitors; n++) {
      const { branch: chosen } = decide(ready, { ...request, visitor: n.toString(16).padStart(16, '0') });
      counts.set(chosen, (counts.get(chosen) ?? 0) + 1);
    }
    const expected = { b1: 0.6, b2: 0.2, everyone: 0.2 };
    const chiSquared = Object.entries(expected).reduce(
      (sum, [id, share]) => sum + ((counts.get(id) ?? 0) - share * visitors) ** 2 / (share * visitors),
      0,
    );
    // Critical value of chi-squared at 0.001 with 2 degrees of freedom: 13.816 (NIST/SEMATECH handbook §1.3.6.7.4, from memory).
    expect(chiSquared).toBeLessThan(13.816);
    fc.assert(
      fc.property(fc.string(), fc.nat(), (visitor, later) => {
        const first = decide(ready, { ...request, visitor });
        expect(decide(ready, { ...request, visitor, at: noon + later, source: 'other' }).branch).toBe(
          first.branch,
        );
      }),
    );
  });

  it('never takes a branch of weight 0, and leaves the other branches of a link alone', () => {
    const ready = link([branch('b1', { devices: ['phone'] }, 0), branch('b2', { devices: ['phone'] }, 5)]);
    for (let n = 0; n < 500; n++) expect(decide(ready, { ...request, visitor: String(n) }).branch).toBe('b2');
    expect(placeOfVisitor('anna', 'lnk_a')).not.toBe(placeOfVisitor('anna', 'lnk_b'));
  });

  it('says which branch cannot be read', () => {
    const bad = { ...branch('b1', {}), destination: 'https://polehouse.example/{nothing}' };
    const made = prepareLink(
      { id: 'lnk_x', destination: 'https://polehouse.example/', asText: [], branches: [bad] },
      domain.hop,
      domain,
    );
    expect(!made.ok && made.problems[0]?.path).toBe('branches.0.destination');
  });
});

describe('hours of the day', () => {
  const tokyo = (day: number, hour: number, minute = 0) => Date.UTC(2026, 10, day, hour - 9, minute);

  it('pass midnight in another zone, and belong to the evening they began on', () => {
    // 23 November 2026 is a Monday.
    const when: Conditions = {
      hours: { from: '22:00', until: '02:00' },
      weekdays: [1],
      zone: 'Asia/Tokyo',
    };
    expect(taken(when, { at: tokyo(23, 21, 59) })).toBe(false);
    expect(taken(when, { at: tokyo(23, 22) })).toBe(true);
    expect(taken(when, { at: tokyo(24, 1, 59) })).toBe(true);
    expect(taken(when, { at: tokyo(24, 2) })).toBe(false);
    expect(taken(when, { at: tokyo(23, 1) })).toBe(false);
  });

  it('go by the clock on the wall over a change of daylight saving', () => {
    // Berlin turned back at 01:00 UTC on 25 October 2026 (IANA tz database): 02:30 was shown twice.
    const when: Conditions = { hours: { from: '02:00', until: '03:00' } };
    expect([0, 60].map((m) => taken(when, { at: Date.UTC(2026, 9, 25, 0, 30 + m) }))).toEqual([true, true]);
    expect(taken(when, { at: Date.UTC(2026, 9, 25, 2, 0) })).toBe(false);
  });
});

describe('opening hours', () => {
  const hours: Hours = { zone: 'Asia/Tokyo', from: '2026-11-23T23:30', until: '2026-11-24T00:30' };
  const at = (text: string) => momentOf('Asia/Tokyo', text);

  it('open and close to the minute in the link’s zone, past midnight', () => {
    const branchAt = (time: string, more = 0) =>
      decide(link([], hours), { ...request, at: at(time) + more }).branch;
    expect(branchAt('2026-11-23T23:30', -1)).toBe('before');
    expect(branchAt('2026-11-23T23:30')).toBe('everyone');
    expect(branchAt('2026-11-24T00:30', -1)).toBe('everyone');
    expect(branchAt('2026-11-24T00:30')).toBe('after');
  });

  it('never lead to a dead offer: the link’s own words, else the domain’s, else plain ones', () => {
    const place = { host: domain.host, path: 'x', nonce: () => 'n0' };
    const body = (ready: ReturnType<typeof link>) =>
      respond(ready, { branch: 'after' }, request, clickId(noon, new Uint8Array(10)), place).body;
    expect(body(link([], hours))).toContain('This offer has ended.');
    const own = link([], {
      ...hours,
      after: { kind: 'page', words: 'Sold out <soon>', askMail: true, consent: 'Write "to" me' },
    });
    expect(body(own)).toContain('Sold out &lt;soon&gt;');
    expect(body(own)).toContain('Write &quot;to&quot; me');
    const elsewhere = link([], { ...hours, after: { kind: 'address', to: 'https://club.example/{source}' } });
    expect(
      respond(elsewhere, { branch: 'after' }, { ...request, source: 'flyer' }, 'X', place).headers.slice(
        0,
        2,
      ),
    ).toEqual(['Location', 'https://club.example/flyer']);
  });

  it('cannot close before they open', () => {
    const made = prepareLink(
      {
        id: 'lnk_x',
        destination: 'https://a.example/',
        asText: [],
        hours: { from: '2026-11-24T00:00', until: '2026-11-23T00:00' },
      },
      domain.hop,
      domain,
    );
    expect(!made.ok && made.problems[0]?.path).toBe('hours.until');
  });
});

describe('the expected shares', () => {
  const thirds = (['phone', 'desktop', 'tablet'] as const).map((device) => ({ ...request, device }));

  it('are those of the samples where only conditions decide, the same each time', () => {
    const split = link([branch('b1', { devices: ['phone'] })]);
    for (let time = 0; time < 20; time++)
      expect(simulateShares(split, thirds, 3000, Math.random).get('b1')).toBe(1000 / 3000);
  });

  it('come near the weights where those decide', () => {
    const split = link([branch('b1', {}, 1), branch('b2', {}, 3)]);
    const shares = simulateShares(split, thirds, 30_000, Math.random);
    const one = 1 / 5; // everyone else weighs 1 as well
    expect(Math.abs((shares.get('b1') ?? 0) - one)).toBeLessThan(5 * Math.sqrt((one * (1 - one)) / 30_000));
  });
});
