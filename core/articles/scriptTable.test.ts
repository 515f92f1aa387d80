import { describe, expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import { addressKey, shortKey } from '#core/link-parts';
import type { ArticleRegister } from './index.ts';
import { makeLinkReader, scriptTable, usualArticles } from './index.ts';
import { register, trackingLink } from './testing/register.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const made = (more: Partial<ArticleRegister> = {}) =>
  scriptTable(makeLinkReader(register(more)), domain, usualArticles);

describe('what the script on a page knows', () => {
  const { table, left } = made();
  /** The link that an address is or becomes. */
  const leads = (address: string) => {
    const at = table.addresses[shortKey(addressKey(address, table.dropped))];
    return at === undefined ? undefined : table.links[at]?.[0];
  };

  it('knows links by their short address, their page, their tracking link and what they replace', () => {
    expect(left).toBe(0);
    expect(table.origin).toBe('https://see.nightledge.example');
    const page = 'https://polehouse.example/kits/saturn';
    for (const address of [
      'https://see.nightledge.example/saturn-kit',
      page,
      `http://www.polehouse.example/kits/saturn/?utm_source=x`,
      trackingLink(page),
      trackingLink(page).replace('{click}', '01M84BDPSKXE4HN0RD2V6W3PBC').replace('{source}', ''),
    ])
      expect(leads(address), address).toBe('lnk_saturnkit');
    expect(leads('https://polehouse.example/kits/jupiter')).toBeUndefined();
  });

  it('has what may not be cloaked as it is placed, with the parameter that takes the click ID', () => {
    const desk = table.links.find(([id]) => id === 'lnk_vennordesk');
    expect(desk?.slice(1)).toEqual(['https://vennor.example/desk?friend=NL20&note=', desk?.[2], 'note']);
    expect(leads('https://vennor.example/desk?friend=NL20&note=')).toBe('lnk_vennordesk');
    // A parameter that nobody said takes the click ID.
    const loose = register().links.map((link) =>
      link.id === 'lnk_vennordesk'
        ? { ...link, destination: 'https://vennor.example/desk?friend=NL20&x9={click}' }
        : link,
    );
    const reader = makeLinkReader(register({ links: loose }));
    expect(reader.meaning('https://vennor.example/desk?friend=NL20&x9=')).toMatchObject({
      kind: 'ours',
      link: { id: 'lnk_vennordesk' },
    });
    // Its merchant wants its name to be read in what is linked.
    const words = table.keywords.map(([text]) => text);
    expect(words).toContain('Vennor desk');
    expect(words).not.toContain('desk');
  });

  it('leaves out what has ended, and links of shops that pay nothing', () => {
    const ids = table.links.map(([id]) => id);
    expect(ids).not.toContain('lnk_ended');
    expect(ids).not.toContain('lnk_oldmap');
    expect(leads('https://polehouse.example/ended')).toBeUndefined();
    expect(
      made({
        dead: new Map([
          ['lnk_reddot', ''],
          ['lnk_redlamp', 'gone'],
        ]),
      }).table.links.map(([id]) => id),
    ).not.toContain('lnk_redlamp');
  });

  it('holds no word of a destination, and no title or note of a link', () => {
    const notes = register().links.map((link) => ({
      ...link,
      notes: 'secret',
      title: 'Secret',
      ...(link.keywords && { keywords: [] }),
    }));
    const text = JSON.stringify(made({ links: notes }).table);
    expect(text).not.toMatch(/secret|nl-4471|polehouse\.example\/|2093/i);
  });

  it('keeps to so many links, those with keywords before others', () => {
    const [kit] = register().links;
    if (!kit) throw new Error('There are links.');
    const { keywords: _, ...plain } = kit;
    const many = Array.from({ length: 2500 }, (__, i) => ({
      ...plain,
      id: `lnk_${i}`,
      slug: `s${i}`,
      destination: trackingLink(`https://polehouse.example/p/${i}`),
      createdAt: i,
    }));
    const cut = made({ links: [...many, { ...kit, createdAt: -1 }] });
    expect([cut.table.links.length, cut.left]).toEqual([2000, 501]);
    expect(cut.table.links[0]?.[0]).toBe(kit.id);
    expect(cut.table.links[1]?.[0]).toBe('lnk_2499');
  });
});
