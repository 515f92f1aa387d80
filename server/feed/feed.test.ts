import { appendFileSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { StoredChange } from '#core/catalogue';
import { differingKinds } from '#core/catalogue';
import { changeOf, firstRecords } from '../client.ts';
import { freshFolder } from '../testing/process.ts';
import { Feed } from './index.ts';

const path = () => join(freshFolder(), 'changes.ndjson');
const open = async (at: string, kept: StoredChange[] = []) =>
  Feed.open(at, {
    isAppHost: (host) => host === 'desk.nightledge.example',
    onStored: (change) => kept.push(change),
  });
const { domain, network, link } = firstRecords(4600);
const bare = { ...link, program: undefined };
const start = [changeOf('domain', domain), changeOf('network', network), changeOf('link', bare)];

describe('the change feed', () => {
  it('builds the link table and finds it again after a restart', async () => {
    const at = path();
    const kept: StoredChange[] = [];
    const feed = await open(at, kept);
    expect(await feed.apply(start)).toEqual({
      version: 3,
      taken: start.map(({ change }, i) => ({ change, version: i + 1 })),
      overtaken: [],
      refused: [],
    });
    expect(kept.map((k) => k.version)).toEqual([1, 2, 3]);
    await feed.close();
    const again = await open(at);
    expect(again.version).toBe(3);
    expect([...(again.table.hosts.get('see.nightledge.localhost')?.links.keys() ?? [])]).toEqual([
      'saturn-kit',
      'saturn',
    ]);
    await again.close();
  });

  it('answers a repeat like the first time, even after a restart and a compaction', async () => {
    const at = path();
    const feed = await open(at);
    await feed.apply(start);
    const edit = changeOf('link', { ...bare, title: 'Second' }, 2);
    await feed.apply([edit, changeOf('link', { ...bare, title: 'Third' }, 3)]);
    await feed.compact();
    const [dom, net, made] = start.map(({ change }) => change);
    const third = { record: 'lnk_saturn', revision: 3, value: { title: 'Third' } };
    expect(await feed.apply([...start, edit])).toMatchObject({
      version: 5,
      taken: [
        { change: dom, version: 1 },
        { change: net, version: 2 },
      ],
      // Somebody has built on these since: whoever asks again is told what stands there now.
      overtaken: [
        { change: made, newest: third },
        { change: edit.change, newest: third },
      ],
      refused: [],
    });
    await feed.close();
    const again = await open(at);
    expect(await again.apply([edit])).toMatchObject({
      version: 5,
      taken: [],
      overtaken: [{ change: edit.change, newest: third }],
      refused: [],
    });
    const { changes } = await again.read(0);
    expect(changes.map((c) => [c.record, c.revision])).toEqual([
      ['dom_see', 1],
      ['net_harrowmead', 1],
      ['lnk_saturn', 3],
    ]);
    expect(readFileSync(at, 'utf8')).not.toContain('Second');
    await again.close();
  });

  it('takes no change under the ID of another record’s', async () => {
    const feed = await open(path());
    await feed.apply(start);
    const other = { ...changeOf('domain', { ...domain, id: 'dom_other', host: 'o.nightledge.example' }) };
    const answer = await feed.apply([{ ...other, change: start[0]?.change ?? '' }]);
    expect(answer.refused).toMatchObject([{ path: 'change' }]);
    expect(feed.version).toBe(3);
    await feed.close();
  });

  it('comes to the same digest after a compaction and a restart, and to another after any change', async () => {
    const at = path();
    const feed = await open(at);
    await feed.apply(start);
    const before = await feed.digest();
    expect(before.kinds).toMatchObject({ domain: { count: 1 }, network: { count: 1 }, link: { count: 1 } });
    await feed.apply([changeOf('link', { ...bare, title: 'Second' }, 2)]);
    const after = await feed.digest();
    expect(differingKinds(before.kinds, after.kinds)).toEqual(['link']);
    await feed.compact();
    await feed.close();
    const again = await open(at);
    expect(await again.digest()).toEqual(after);
    await again.close();
  });

  it('gives the journal every change it lacks, those that were superseded since as well', async () => {
    const feed = await open(path());
    await feed.apply(start);
    await feed.apply([
      changeOf('link', { ...bare, title: 'Second' }, 2),
      changeOf('link', { ...bare, title: 'Third' }, 3),
    ]);
    const titles = (await feed.since(3)).map(({ version, value }) => [version, value?.['title']]);
    expect(titles).toEqual([
      [4, 'Second'],
      [5, 'Third'],
    ]);
    await feed.close();
  });

  it('refuses a stale revision with the newest version, and takes the rest of the batch', async () => {
    const feed = await open(path());
    await feed.apply(start);
    await feed.apply([changeOf('link', { ...bare, title: 'Anna’s' }, 2, 'Anna')]);
    const stale = changeOf('link', { ...bare, title: 'Ben’s' }, 2, 'Ben');
    const answer = await feed.apply([
      stale,
      changeOf('link', { ...bare, id: 'lnk_other', slug: 'other', aliases: [] }),
    ]);
    expect(answer.version).toBe(5);
    expect(answer.refused).toMatchObject([
      {
        change: stale.change,
        path: 'revision',
        theirs: { by: 'Anna', revision: 2, value: { title: 'Anna’s' } },
      },
    ]);
    await feed.close();
  });

  it.each([
    ['slug', changeOf('link', { ...bare, id: 'lnk_b', aliases: [] }), 'saturn-kit-2'],
    ['slug', changeOf('link', { ...bare, id: 'lnk_b', slug: 'saturn', aliases: [] }), 'taken'],
    [
      'domain',
      changeOf('link', { ...bare, id: 'lnk_b', slug: 'b', aliases: [], domain: 'dom_no' }),
      'Add the domain',
    ],
    ['destination', changeOf('link', { ...bare, destination: 'https://n.example/{oops}' }, 2), '{oops}'],
    ['host', changeOf('domain', { ...domain, id: 'dom_b' }), 'already'],
    ['host', changeOf('domain', { ...domain, id: 'dom_b', host: 'desk.nightledge.example' }), 'application'],
    ['postback.key', changeOf('network', { ...network, id: 'net_b' }), 'same postback key'],
    ['', { ...changeOf('domain', domain, 2), value: null }, 'Used by 1 link: saturn-kit.'],
    ['id', { ...changeOf('link', { ...bare, id: 'lnk_x' }), record: 'lnk_y' }, 'another ID'],
  ])('refuses with the field at fault: %s', async (field, change, message) => {
    const feed = await open(path());
    await feed.apply(start);
    const { refused } = await feed.apply([change]);
    expect(refused[0]?.path).toBe(field);
    expect(refused[0]?.message).toContain(message);
    expect(feed.version).toBe(3);
    await feed.close();
  });

  it('lets a change rest on one before it in the same batch', async () => {
    const feed = await open(path());
    const moved = changeOf('link', { ...bare, slug: 'rings', aliases: ['saturn-kit'] }, 2);
    expect((await feed.apply([...start, moved])).refused).toEqual([]);
    expect([...(feed.table.hosts.get(domain.host)?.links.keys() ?? [])]).toEqual(['rings', 'saturn-kit']);
    await feed.apply([changeOf('domain', { ...domain, prefix: 'go/' }, 2)]);
    expect([...(feed.table.hosts.get(domain.host)?.links.keys() ?? [])]).toEqual([
      'go/rings',
      'go/saturn-kit',
    ]);
    await feed.close();
  });

  it('gives pages in the order of versions', async () => {
    const feed = await open(path());
    const many = Array.from({ length: 2500 }, (_, i) =>
      changeOf('link', { ...bare, id: `lnk_n${i}`, slug: `n${i}`, aliases: [] }),
    );
    await feed.apply([...start.slice(0, 2), ...many]);
    const first = await feed.read(0);
    expect([first.changes.length, first.more]).toEqual([2000, true]);
    const second = await feed.read(first.version);
    expect([second.changes.length, second.more, second.version]).toEqual([502, false, 2502]);
    await feed.close();
  });

  it('says where it is damaged, rather than to begin without what stands there', async () => {
    const at = path();
    const feed = await open(at);
    await feed.apply(start);
    await feed.close();
    const whole = readFileSync(at, 'utf8');
    writeFileSync(at, whole.replace('{"version":2', '{"edi\0on":2,'));
    await expect(open(at)).rejects.toThrow(/damaged at byte \d+: "\{"edi/);
  });

  it('cuts off a torn last line', async () => {
    const at = path();
    const feed = await open(at);
    await feed.apply(start);
    await feed.close();
    appendFileSync(at, '{"version":4,"chan');
    const again = await open(at);
    expect(again.version).toBe(3);
    expect((await again.apply([changeOf('link', { ...bare, title: 'On' }, 2)])).version).toBe(4);
    await again.close();
    const last = await open(at);
    expect(last.version).toBe(4);
    await last.close();
  });
});
