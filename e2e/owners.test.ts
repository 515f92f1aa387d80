import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage, Link } from '#core/catalogue';
import { noRules } from '#core/catalogue';
import { call, changeOf, firstRecords, sendChanges } from '../server/client.ts';
import { startBrowser } from './browser.ts';
import { clipboard, deskWithLink } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

/** Where the links of an old site led: five in turn, the last of them to nobody's network. */
const destination = (i: number): string => {
  const page = encodeURIComponent(`https://polehouse.example/item-${i}`);
  const all = [
    `https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1=&ref2=&page=${page}`,
    `https://vennor.example/item-${i}?friend=NL20&note=`,
    `https://go.kestrine.example/x?aff=nl-4&offer=55&sub1=&u=${page}`,
    `https://t.harrowmead.example/r?by=nl-4471&deal=7777&ref1=&ref2=&page=${page}`,
    `https://club.nightledge.example/${i}`,
  ];
  return all[i % all.length] ?? '';
};

describe('a thousand links from a file', () => {
  it('belong to network and program by where they lead: the filter finds them, the merchant’s rules hold them', async () => {
    const { server, context, page } = await deskWithLink(browser, '/links');
    const { network: first, program } = firstRecords(server.port);
    const vennor = {
      ...first,
      id: 'net_vennor',
      name: 'Vennor Direct',
      linkFormat: {
        version: 1,
        hosts: ['vennor.example'],
        path: '/**',
        parameters: [
          { name: 'friend', role: 'account' as const },
          { name: 'note', role: 'slot' as const },
        ],
      },
      slots: [
        { name: 'note', length: 32, fill: '{click}' as const, allowed: 'any' as const, merchant: false },
      ],
      postback: { ...first.postback, key: 'v'.repeat(24), pixelKey: 'w'.repeat(24) },
    };
    const vennorProgram = {
      ...program,
      id: 'prg_vennor',
      network: 'net_vennor',
      name: 'Vennor Direct',
      code: '',
      hosts: ['vennor.example'],
      rules: { ...noRules, cloak: false },
    };
    const { refused } = await sendChanges(server, [
      changeOf('network', vennor),
      changeOf('program', vennorProgram),
    ]);
    expect(refused).toEqual([]);
    await page.goto(`http://localhost:${server.port}/import`);
    const rows = Array.from({ length: 1000 }, (_, i) => `old-${i},${destination(i)}`);
    await page.locator('input[type=file]').setInputFiles({
      name: 'old-site.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(['Slug,Destination', ...rows].join('\n')),
    });
    await page
      .getByRole('button', { name: 'Bring in 1000 links' })
      .or(page.getByRole('button', { name: 'Bring in 1,000 links' }))
      .click();
    await page.getByText('All 1001 links live').or(page.getByText('All 1,001 links live')).waitFor();

    const owners = async () => {
      const { body } = await call(server, 'GET', '/changes?after=0');
      const { changes }: ChangesPage = JSON.parse(body);
      const links = changes.flatMap(({ kind, value }) => (kind === 'link' && value ? [value as Link] : [])); // a change of a link holds one
      const count: Record<string, number> = {};
      for (const { slug, network = 'none', program = 'none' } of links)
        if (slug.startsWith('old-'))
          count[`${network} ${program}`] = (count[`${network} ${program}`] ?? 0) + 1;
      return count;
    };
    expect(await owners()).toEqual({
      'net_harrowmead prg_polehouse': 200,
      'net_vennor prg_vennor': 200,
      // A code no program has is another program's; nobody registered the third network.
      'net_harrowmead none': 200,
      'none none': 400,
    });

    await page.goto(`http://localhost:${server.port}/links?program=prg_vennor`);
    await page.getByText('200 of 1001').or(page.getByText('200 of 1,001')).waitFor();
    await page.getByText('old-1', { exact: true }).first().click();
    await page.getByRole('button', { name: 'Copy as HTML' }).click();
    await vi.waitFor(async () => expect(await clipboard(page)).toMatch(/^<a /));
    const copied = await clipboard(page);
    expect(copied).toContain('href="https://vennor.example/item-1?friend=NL20');
    expect(copied).not.toContain('see.nightledge');

    // A network that is registered later gets its links at once.
    await page.goto(`http://localhost:${server.port}/programs`);
    await page.getByRole('link', { name: 'Add network' }).click();
    await page
      .getByLabel('Two or three of its tracking links')
      .fill([2, 7].map((i) => destination(i)).join('\n'));
    await page.getByRole('button', { name: 'Register Kestrine' }).click();
    await page.getByText('Kestrine is registered.').waitFor();
    await vi.waitFor(
      async () => expect(Object.values(await owners())).toEqual([200, 200, 200, 200, 200]),
      10_000,
    );
    const [own = ''] = Object.keys(await owners()).filter((key) => !/harrowmead|vennor|none/.test(key));
    expect(own).toMatch(/^net_\w+ prg_\w+$/);

    // A slot that its links do not show is added by hand: the link format has it in a new version.
    await page.goto(`http://localhost:${server.port}/programs/net_vennor`);
    await page.getByRole('button', { name: 'Change its slots' }).click();
    await page.getByRole('button', { name: 'Add a slot' }).click();
    await page.getByLabel('Name of the slot').last().fill('note2');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('The slots of Vennor Direct are saved.').waitFor();
    await page.getByText('Link format, version 2').waitFor();
    await context.close();
    await server.stop();
  }, 90_000);
});
