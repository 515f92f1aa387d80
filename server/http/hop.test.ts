import { expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import { LinkTable } from '../feed/linkTable.ts';
import { readyLink } from '../feed/index.ts';
import { listenForHops } from '../testing/hops.ts';

it('a part of a link that fails at a hop is told of, and its visitors go to the destination all the same', async () => {
  const table = new LinkTable();
  const domain = newDomain('dom_see', 'see.nightledge.localhost', 'UTC');
  table.put({ kind: 'domain', record: domain.id, version: 1, value: { ...domain } });
  const value = {
    id: 'lnk_kit',
    domain: domain.id,
    slug: 'kit',
    aliases: [],
    title: 'Kit',
    destination: 'https://shop.example/kit?c={click}',
    asText: [],
    branches: [
      { id: 'b1', name: '', when: { devices: ['phone'] }, destination: 'https://shop.example/b1', weight: 1 },
    ],
    hop: {},
    marks: {},
    notes: '',
    createdAt: 0,
  };
  table.put({ kind: 'link', record: value.id, version: 2, value });
  const link = table.links.get('lnk_kit');
  const ready = link && readyLink(table, link, domain);
  if (!link || !ready) throw new Error('the link is there');
  const branches = ready.branches.map((branch) => ({
    ...branch,
    test: () => {
      throw new Error('a look-up failed');
    },
  }));
  link.ready = { ...ready, branches };

  const { ask, written, failures, close } = await listenForHops(table);
  const answer = await ask(domain.host, 'kit');
  await close();
  expect([answer.status, answer.headers.location]).toEqual([
    307,
    expect.stringMatching(/^https:\/\/shop\.example\/kit\?c=[0-9A-Z]{26}$/),
  ]);
  expect(failures).toEqual(['lnk_kit: Error: a look-up failed']);
  expect(written.join()).toContain('"branch":"everyone"');
});
