import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Domain, Link } from '#core/catalogue';
import { hopOf, marksOf, newDomain, ownAfterEdit, withoutChoice } from '#core/catalogue';
import { anyLink, plainLink } from '../catalogue/testing/anyLink.ts';
import { answerVisit, changedByDomain, clickId } from './index.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const words = (text: string) => ({ kind: 'page' as const, words: text, askMail: false, consent: '' });

describe('what a link does of its own', () => {
  const opened = { status: 307, cache: false, robots: 'noindex' };

  it('is what a person changed; the rest goes on following its domain', () => {
    expect(ownAfterEdit({ ...opened, status: 302 }, opened, {})).toEqual({ status: 302 });
    const own = ownAfterEdit({ ...opened, status: 302 }, opened, {});
    // The domain changes another choice, and the link goes with it.
    const next = { ...domain, hop: { ...domain.hop, hideReferrer: true } };
    expect(hopOf({ hop: own as Link['hop'] }, next)).toMatchObject({ status: 302, hideReferrer: true });
  });

  it('stays its own when it is edited again, and goes with one press', () => {
    expect(ownAfterEdit(opened, opened, { cache: true })).toEqual({ cache: false });
    expect(withoutChoice({ status: 302, cache: true }, 'status')).toEqual({ cache: true });
  });
});

describe('what another domain would change of a link', () => {
  const changed = (next: Partial<Domain>, more: Partial<Link> = {}) =>
    changedByDomain(plainLink(more), domain, { ...domain, ...next });

  it('is its hop, its marks with the hover title, and its address', () => {
    expect(changed({})).toEqual([]);
    expect(changed({ hop: { ...domain.hop, status: 301 } })[0]).toContain('301 permanent');
    expect(changed({ hop: { ...domain.hop, status: 301 } }, { hop: { status: 302 } })).toEqual([]);
    expect(changed({ marks: { ...domain.marks, title: 'An advert' } })).toEqual(['Hover title “An advert”.']);
    expect(changed({ marks: { rel: [], newTab: false, title: '' } })).toEqual([
      'No rel values.',
      'Opens in the same tab.',
    ]);
    expect(changed({ prefix: 'go/' })[0]).toContain('see.nightledge.example/go/kit');
  });

  it('is what goes by the clock of its zone, unless it has a zone of its own', () => {
    const zone = 'Asia/Tokyo';
    expect(changed({ zone })).toEqual([]);
    expect(changed({ zone }, { hours: { until: '2026-12-01T00:00' } })).toEqual([
      'By the clock of Asia/Tokyo: its opening hours.',
    ]);
    expect(changed({ zone }, { hours: { until: '2026-12-01T00:00', zone: 'UTC' } })).toEqual([]);
    expect(changed({ zone }, { destination: 'https://a.example/?d={day}' })[0]).toContain('its {day}');
  });

  it('is what it says while it is closed, unless it says something of its own', () => {
    const after = words('Over.');
    expect(changed({ after })).toEqual([]);
    const hours = { until: '2026-12-01T00:00' };
    expect(changed({ after }, { hours })).toEqual(['Other words after it closed.']);
    expect(changed({ after }, { hours: { ...hours, after: words('Mine.') } })).toEqual([]);
  });

  it('is told wherever a visitor would get another answer, or a placed link other marks: property', () => {
    const zone = fc.constantFrom('Asia/Tokyo', 'America/New_York');
    const several = fc.record(
      {
        zone,
        after: fc.constant(words('Over.')),
        before: fc.constant(words('Soon.')),
        hop: fc.record({
          status: fc.constantFrom(301, 302),
          page: fc.constantFrom('none', 'frame'),
          robots: fc.constantFrom('index', 'noindex'),
        }),
        marks: fc.record({
          rel: fc.subarray(['ugc']),
          newTab: fc.boolean(),
          title: fc.constantFrom('', 'x'),
        }),
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(
        anyLink({ id: 'lnk_kit', domain: domain.id, slug: 'kit' }),
        // Alone a zone is seen in what is answered; beside other changes it hides behind them.
        fc.oneof(fc.record({ zone, hop: fc.constant({}) }), several),
        fc.integer({ min: -16, max: 16 }),
        (any, { hop, ...more }, hoursApart) => {
          // Near the times the link itself speaks of: there a zone makes a difference.
          const spoken = any.hours?.until ?? any.hours?.from ?? '2026-11-11T12:00';
          const at = Date.parse(`${spoken}:00Z`) + hoursApart * 3_600_000;
          const next = { ...domain, ...more, hop: { ...domain.hop, ...hop } } as Domain; // each part is one of a domain
          const answer = (of: Domain) =>
            JSON.stringify(
              answerVisit(
                any,
                { link: () => any, domain: () => of, program: () => undefined },
                {
                  at,
                  source: 'flyer',
                  query: '',
                  country: 'DE',
                  device: 'phone',
                  language: 'de',
                  visitor: 'v',
                  returning: false,
                },
                clickId(at, new Uint8Array(10)),
                { host: domain.host, path: 'kit', nonce: () => 'n' },
              )?.response,
            );
          const isOther =
            answer(domain) !== answer(next) ||
            JSON.stringify(marksOf(any, domain)) !== JSON.stringify(marksOf(any, next));
          if (isOther) expect(changedByDomain(any, domain, next)).not.toEqual([]);
        },
      ),
      { numRuns: 3000 },
    );
  });
});
