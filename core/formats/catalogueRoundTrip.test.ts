import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Link, Settings } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { anyLink, plainLink } from '../catalogue/testing/anyLink.ts';
import type { AnyRecord } from './index.ts';
import { planCatalogue, readCatalogue, writeCatalogue } from './index.ts';

const see = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const go = { ...newDomain('dom_go', 'go.nightledge.example', 'Asia/Tokyo'), prefix: 'to/', groups: true };
const settings: Settings = {
  id: 'settings',
  currency: 'USD',
  filters: [{ name: 'Autumn', query: 'tag=autumn' }],
};

const someLinks: fc.Arbitrary<Link[]> = fc
  .record({
    links: fc.tuple(
      anyLink({ id: 'lnk_kit', domain: see.id, slug: 'kit' }),
      anyLink({ id: 'lnk_lamp', domain: see.id, slug: 'lamp' }),
      anyLink({ id: 'lnk_map', domain: go.id, slug: 'kit' }),
    ),
    aliases: fc.subarray(['old', 'older']),
    to: fc.constantFrom('lnk_lamp', 'lnk_map', undefined),
    archived: fc.boolean(),
  })
  .map(({ links: [first, ...rest], aliases, to, archived }) => [
    { ...first, aliases, ...(archived && { archived: { at: 1_790_100_000_000, ...(to && { to }) } }) },
    ...rest,
  ]);
const world = (links: readonly Link[]): AnyRecord[] => [
  { kind: 'domain', value: see },
  { kind: 'domain', value: go },
  ...links.map((value): AnyRecord => ({ kind: 'link', value })),
];
/** What comes of a file of records in a place. */
const brought = (records: readonly AnyRecord[], here: readonly AnyRecord[]) => {
  const read = readCatalogue(writeCatalogue(records, 7), () => {
    throw new Error('No network is in these files.');
  });
  if (!read.ok) throw new Error(read.problems[0]?.message);
  expect(read.value.problems).toEqual([]);
  return planCatalogue(read.value.records, here);
};
const json = (value: unknown): unknown => JSON.parse(JSON.stringify(value));

describe('a catalogue written as JSON', () => {
  it('comes back as it went, into an empty place: property', () =>
    fc.assert(
      fc.property(someLinks, (links) => {
        const { fresh, known, taken } = brought(world(links), []);
        expect([known, taken]).toEqual([[], []]);
        expect(fresh).toEqual(json(world(links)));
      }),
    ));

  it('and changes nothing where it is already: property', () =>
    fc.assert(
      fc.property(someLinks, (links) => {
        const { fresh, known, taken } = brought(world(links), world(links));
        expect([fresh, taken]).toEqual([[], []]);
        expect(known).toEqual(json(world(links)));
      }),
    ));

  it('goes to the same hosts under other IDs, and leaves out what answers there already: property', () =>
    fc.assert(
      fc.property(someLinks, fc.constantFrom('kit', 'lamp', 'old', 'elsewhere'), (links, slug) => {
        const own = { ...see, id: 'dom_ours' };
        const ours = plainLink({ id: 'lnk_ours', domain: own.id, slug });
        const here: AnyRecord[] = [
          { kind: 'domain', value: own },
          { kind: 'link', value: ours },
        ];
        const { fresh, known, sameHosts, taken } = brought(world(links), here);
        expect(sameHosts).toEqual([see.host]);
        expect(known).toEqual([{ kind: 'domain', value: own }]);
        const clashes = links.filter(
          (link) => link.domain === see.id && [link.slug, ...link.aliases].includes(slug),
        );
        expect(taken.map(({ link }) => link.id)).toEqual(clashes.map(({ id }) => id));
        expect(fresh.map(({ value }) => value.id)).toEqual([
          go.id,
          ...links.filter((link) => !clashes.includes(link)).map(({ id }) => id),
        ]);
        for (const record of fresh)
          if (record.kind === 'link') expect([own.id, go.id]).toContain(record.value.domain);
      }),
    ));

  it('brings its settings only when they are asked for', () => {
    const records: AnyRecord[] = [...world([]), { kind: 'settings', value: settings }];
    const plan = brought(records, [{ kind: 'settings', value: { id: 'settings', currency: 'EUR' } }]);
    expect(plan.settings).toEqual(settings);
    expect([...plan.fresh, ...plan.known].map(({ kind }) => kind)).toEqual(['domain', 'domain']);
    expect(brought(world([]), []).settings).toBeUndefined();
  });
});
