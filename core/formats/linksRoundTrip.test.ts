import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Link } from '#core/catalogue';
import { firstProblem, newDomain } from '#core/catalogue';
import { anyLink, plainLink } from '../catalogue/testing/anyLink.ts';
import { compileDestination } from '../hop/index.ts';
import { guessColumns, planImport, readLinkRows, readTable, writeLinks } from './index.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const second = newDomain('dom_go', 'go.nightledge.example', 'Asia/Tokyo');
const domains = [domain, second];
/** Two of them have the same slug, each on a domain of its own. */
const placed = [
  { id: 'lnk_kit', domain: domain.id, slug: 'kit' },
  { id: 'lnk_lamp', domain: domain.id, slug: 'lamp' },
  { id: 'lnk_map', domain: second.id, slug: 'map' },
  { id: 'lnk_kit2', domain: second.id, slug: 'kit' },
] as const;

/** Links of two domains, one of which may answer as another since it was archived. */
const someLinks: fc.Arbitrary<Link[]> = fc
  .record({
    links: fc.tuple(...placed.map((given) => anyLink(given))),
    archived: fc.option(fc.constantFrom('gone', 'lnk_lamp', 'lnk_map', 'lnk_kit2'), { nil: undefined }),
  })
  .map(({ links, archived }) =>
    links.map((link, i) =>
      i > 0 || archived === undefined
        ? link
        : { ...link, archived: { at: 1_790_100_000_000, ...(archived !== 'gone' && { to: archived }) } },
    ),
  );

const problemOf = (destination: string) => {
  const compiled = compileDestination(destination);
  return compiled.ok ? undefined : firstProblem(compiled);
};
const brought = (text: string, before: readonly Link[], own = domains) => {
  const table = readTable(text);
  const { good, bad } = readLinkRows(table, guessColumns(table), problemOf);
  expect(bad).toEqual([]);
  let n = 0;
  return planImport(good, domain, own, before, 'replace', () => `lnk_new${(n += 1)}`, 7);
};
const addressOfOther = (links: readonly Link[], id: string | undefined) => {
  const other = links.find((link) => link.id === id);
  return other && `${other.domain} ${other.slug}`;
};
/** What a table holds of a link; the link it answers as by its address. */
const held = (links: readonly Link[], of: Link) => ({
  domain: of.domain,
  slug: of.slug,
  title: of.title,
  destination: of.destination,
  notes: of.notes,
  group: of.group,
  tags: of.tags,
  status: of.hop.status,
  rel: of.marks.rel,
  newTab: of.marks.newTab,
  from: of.hours?.from,
  until: of.hours?.until,
  zone: of.hours?.zone,
  archived: of.archived && { at: of.archived.at, to: addressOfOther(links, of.archived.to) },
});

describe('links written as CSV', () => {
  it('come back as they went, into an empty place: property', () =>
    fc.assert(
      fc.property(someLinks, (links) => {
        const { made, replaced, skipped } = brought(writeLinks(links, domains), []);
        expect([replaced, skipped]).toEqual([[], []]);
        expect(made.map((link) => held(made, link))).toEqual(links.map((link) => held(links, link)));
      }),
    ));

  it('and change nothing where they are already, what only JSON holds included: property', () =>
    fc.assert(
      fc.property(someLinks, (links) => {
        const here = structuredClone(links); // as they come out of a database
        const { made, replaced, same } = brought(writeLinks(here, domains), here);
        expect([made, replaced, same]).toEqual([[], [], links.length]);
      }),
    ));

  it('with their group and prefix in the short address too', () => {
    const link = plainLink({ marks: { rel: [] }, group: 'gear', tags: ['a, b'] });
    const grouped = { ...domain, prefix: 'go/', groups: true };
    const text = writeLinks([link], [grouped]);
    expect(text).toContain('see.nightledge.example/go/gear/kit');
    expect(brought(text, [], [grouped])).toMatchObject({
      made: [{ slug: 'kit', group: 'gear', tags: ['a, b'], marks: { rel: [] } }],
    });
  });

  it('on a domain that is not here go to the one that was chosen', () => {
    const text = writeLinks([plainLink({ domain: second.id })], domains);
    expect(brought(text, [], [domain]).made).toMatchObject([{ slug: 'kit', domain: domain.id }]);
  });

  it('of somebody else keep what their table has no column of', () => {
    const before = {
      id: 'lnk_kit',
      domain: domain.id,
      slug: 'kit',
      aliases: ['old'],
      title: 'Kit',
      destination: 'https://a.example/',
      asText: [],
      hop: { page: 'frame' as const, frameTitle: 'Ours' },
      marks: { title: 'An advert' },
      notes: 'Ask in spring.',
      createdAt: 0,
      tags: ['gift'],
    };
    const { replaced } = brought('Slug,URL\nkit,https://b.example/\n', [before]);
    expect(replaced[0]?.after).toEqual({ ...before, destination: 'https://b.example/' });
  });

  it('are bad rows where a hop would refuse them', () => {
    const table = readTable(
      'Slug,URL\na,https://a.example/x y\nb,https://b.example/{weird}\nc,https://c.example/{click}\n',
    );
    const { good, bad } = readLinkRows(table, guessColumns(table), problemOf);
    expect(good.map(({ values }) => values.slug)).toEqual(['c']);
    expect(bad.map(({ line, problems }) => [line, problems[0]?.path])).toEqual([
      [2, 'destination'],
      [3, 'destination'],
    ]);
  });
});
