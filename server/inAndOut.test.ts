import { randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ChangesPage, Link } from '#core/catalogue';
import { firstProblem, newDomain, recordId } from '#core/catalogue';
import type { AnyRecord } from '#core/formats';
import {
  guessColumns,
  planCatalogue,
  planImport,
  readCatalogue,
  readLinkRows,
  readTable,
  writeCatalogue,
  writeLinks,
} from '#core/formats';
import { compileDestination } from '#core/hop';
import { anyLink } from '../core/catalogue/testing/anyLink.ts';
import { send } from '../standins/index.ts';
import type { ServerAddress } from './client.ts';
import { call, changeOf, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';

const see = newDomain('dom_see', 'see.nightledge.localhost', 'Europe/Berlin');
const go = newDomain('dom_go', 'go.nightledge.localhost', 'Asia/Tokyo');

/** Forty links by chance, on two domains; one answers as another since it was archived. */
const drawn = (): Link[] => {
  const links = Array.from({ length: 40 }, (_, i) =>
    fc.sample(anyLink({ id: `lnk_kit${i}`, domain: i % 3 === 0 ? go.id : see.id, slug: `kit-${i}` }), 1),
  ).flat();
  return structuredClone(links).map((link, i) =>
    i === 5 ? { ...link, archived: { at: 1_790_100_000_000, to: 'lnk_kit7' } } : link,
  );
};
const recordsAt = async (place: ServerAddress): Promise<AnyRecord[]> => {
  const page: ChangesPage = JSON.parse((await call(place, 'GET', '/changes?after=0')).body);
  // What the server stores passed the schema of its kind.
  return page.changes.map(({ kind, value }) => ({ kind, value }) as unknown as AnyRecord);
};
const linksAt = async (place: ServerAddress): Promise<Link[]> =>
  (await recordsAt(place)).flatMap((record) => (record.kind === 'link' ? [record.value] : []));
const put = async (place: ServerAddress, records: readonly AnyRecord[], revision = 1): Promise<void> => {
  const { refused } = await sendChanges(
    place,
    records.map(({ kind, value }) => changeOf(kind, value, revision)),
  );
  expect(refused).toEqual([]);
};
const asLinks = (links: readonly Link[]): AnyRecord[] => links.map((value) => ({ kind: 'link', value }));
const planned = (text: string, here: readonly AnyRecord[]) => {
  const read = readCatalogue(text, () => {
    throw new Error('No network is in it.');
  });
  if (!read.ok) throw new Error(firstProblem(read));
  expect(read.value.problems).toEqual([]);
  return planCatalogue(read.value.records, here);
};
/** An answer less what differs each time: the ID of the click, the nonce of a policy, the seal of a second page. */
const withoutChance = (text: string): string =>
  text
    .replaceAll(/[0-9A-HJKMNP-TV-Z]{26}/g, '')
    .replaceAll(/nonce="[^"]*"/g, '')
    .replaceAll(/(second-page=[^"&]*\.)[\w-]{22}/g, '$1');
/** What a server answers to somebody from a phone and from a desk. */
const answersOf = (place: Running, links: readonly Link[]) =>
  Promise.all(
    links.flatMap((link) =>
      [
        'Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) Mobile',
        'Mozilla/5.0 (X11; Linux x86_64)',
      ].map(async (agent) => {
        const host = link.domain === go.id ? go.host : see.host;
        const { status, headers, body } = await send(`http://${host}:${place.port}/${link.slug}~flyer`, {
          headers: { 'user-agent': agent, 'accept-language': 'de' },
        });
        const text = `${status} ${headers.location ?? ''} ${body}`;
        return `${link.slug} ${withoutChance(text)}`;
      }),
    ),
  );

describe('a catalogue that went out', () => {
  let from: Running;
  const links = drawn();
  const all: AnyRecord[] = [{ kind: 'domain', value: see }, { kind: 'domain', value: go }, ...asLinks(links)];
  const running: Running[] = [];
  const fresh = async () => {
    const server = await startProcess();
    running.push(server);
    return server;
  };
  beforeAll(async () => {
    from = await fresh();
    await put(from, all);
  });
  afterAll(() => Promise.all(running.map((server) => server.stop())));

  it('as JSON is the same in an empty server, and answers the same', async () => {
    const to = await fresh();
    const { fresh: records } = planned(writeCatalogue(await recordsAt(from), 1), await recordsAt(to));
    await put(to, records);
    expect(await recordsAt(to)).toEqual(await recordsAt(from));
    // A split by weight is drawn by a salt of each server.
    const sure = links.filter(({ branches }) => branches === undefined);
    expect(await answersOf(to, sure)).toEqual(await answersOf(from, sure));
  });

  it('as JSON is taken by a server that has one of its hosts, and its own links stay', async () => {
    const to = await fresh();
    const own = { ...see, id: 'dom_ours' };
    const [clash] = fc.sample(anyLink({ id: 'lnk_ours', domain: own.id, slug: 'kit-7' }), 1);
    if (!clash) throw new Error('One is drawn.');
    await put(to, [{ kind: 'domain', value: own }, ...asLinks([clash])]);
    const plan = planned(writeCatalogue(all, 1), await recordsAt(to));
    expect(plan.taken.map(({ link }) => link.id)).toEqual(['lnk_kit7']);
    await put(to, plan.fresh);
    const there = await linksAt(to);
    expect(there).toHaveLength(links.length);
    expect(there.find(({ id }) => id === 'lnk_ours')).toEqual(JSON.parse(JSON.stringify(clash)));
  });

  it('as CSV is taken by an empty server, row by row, and once more changes nothing', async () => {
    const to = await fresh();
    await put(to, [
      { kind: 'domain', value: see },
      { kind: 'domain', value: go },
    ]);
    const bring = async () => {
      const table = readTable(writeLinks(links, [see, go]));
      const { good, bad } = readLinkRows(table, guessColumns(table), (destination) => {
        const compiled = compileDestination(destination);
        return compiled.ok ? undefined : firstProblem(compiled);
      });
      expect(bad).toEqual([]);
      const freshId = () => recordId('lnk', randomBytes(14));
      return planImport(good, see, [see, go], await linksAt(to), 'replace', freshId, 7);
    };
    const { made } = await bring();
    await put(to, asLinks(made));
    const placed = (list: readonly Link[]) =>
      list.map(({ domain, slug, destination }) => `${domain} ${slug} ${destination}`).sort();
    expect(placed(await linksAt(to))).toEqual(placed(links));
    const again = await bring();
    expect([again.made, again.replaced, again.same]).toEqual([[], [], links.length]);
  });
});
