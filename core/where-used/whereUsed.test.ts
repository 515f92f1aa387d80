import { describe, expect, it } from 'vitest';
import type { Link, Page, Product } from '#core/catalogue';
import { checkRecord } from '#core/catalogue';
import type { ArticleRegister } from '#core/articles';
import { makeLinkReader, makeLooker, usualArticles } from '#core/articles';
import { readTable } from '#core/formats';
import type { PageUse } from '#core/queries';
import { register, trackingLink } from '../articles/testing/register.ts';
import type { UsedPage } from './index.ts';
import { isNews, pageRecord, usedCsv, whereUsed } from './index.ts';

const address = 'https://nightledge.example/rings';
const product: Product = {
  id: 'pro_kit',
  program: 'prg_2093',
  name: 'Kit',
  code: '',
  page: 'https://polehouse.example/kits/saturn',
  price: { amount: 129_900, currency: 'EUR', day: '2026-10-01' },
  coupon: { code: 'NIGHT5' },
  link: 'lnk_saturnkit',
  createdAt: 1,
};
const html = `<h1>Rings</h1><p>Some links on this page pay us if you buy.</p>
<p><a href="https://see.nightledge.example/saturn-kit~rings">Kit</a> €1,299.00, NIGHT5
<p><a href="${trackingLink('https://polehouse.example/lamps/red').replaceAll('&', '&amp;')}">torch</a>
<p><a href="https://polehouse.example/lamps/red">torch</a> <a href="https://polehouse.example/lamps/red">again</a>
<p><a href="https://see.nightledge.example/nobody">x</a> <a href="/about">about</a> <a href="https://other.example/">o</a>`;
const before = register({ products: [product] });

const read = (text = html, readAt = 1000, from = before): Page =>
  pageRecord(
    { name: address, by: 'crawl', title: 'Rings', readAt },
    makeLooker(makeLinkReader(from), usualArticles).look({ text, form: 'html', page: address }, ''),
  );
const changed = (change: (link: Link) => Link, more: Partial<ArticleRegister> = {}): ArticleRegister => ({
  ...before,
  links: before.links.map(change),
  ...more,
});
const used = (from: ArticleRegister, pages = [read()], heard: readonly PageUse[] = []): UsedPage[] =>
  whereUsed(makeLinkReader(from), pages, heard);
const mended = ([page]: UsedPage[]) =>
  page?.links.map(({ link, times, mend }) => [link, times, mend?.kind]) ?? [];
const heardOf = (page: string, more: Partial<PageUse> = {}): PageUse => ({
  page,
  siteOnly: false,
  newest: 5000,
  views: 0,
  seconds: 0,
  depth: 0,
  links: [],
  ...more,
});

describe('a page that was read', () => {
  it('is kept as a record with what of ours stands on it, each address once', () => {
    const page = read();
    expect(checkRecord('page', page)).toMatchObject({ ok: true });
    expect(page.links.map(({ address: at, link, times }) => [at, link, times])).toEqual([
      ['https://see.nightledge.example/saturn-kit~rings', 'lnk_saturnkit', 1],
      [trackingLink('https://polehouse.example/lamps/red'), 'lnk_redlamp', 1],
      ['https://polehouse.example/lamps/red', 'lnk_redlamp', 2],
      ['https://see.nightledge.example/nobody', undefined, 1],
    ]);
    expect(page.says).toEqual([
      { product: 'pro_kit', amount: 129_900, currency: 'EUR' },
      { product: 'pro_kit', coupon: 'NIGHT5' },
    ]);
    expect(mended(used(before))).toEqual([
      ['lnk_saturnkit', 1, 'marks'],
      ['lnk_redlamp', 1, 'raw'],
      ['lnk_redlamp', 2, 'shop'],
      [undefined, 1, 'nowhere'],
    ]);
  });

  it('has its links found where their addresses are relative to it, and where it says another base', () => {
    const own = (text: string, page: string) =>
      makeLooker(makeLinkReader(before), usualArticles)
        .look({ text, form: 'html', page }, '')
        .standing.map((each) => each.address);
    const kit = 'https://see.nightledge.example/saturn-kit';
    expect(own('<a href="saturn-kit">x</a>', 'https://see.nightledge.example/notes')).toEqual([kit]);
    expect(own('<a href="/saturn-kit">x</a>', 'https://elsewhere.example/')).toEqual([]);
    expect(own('<base href="//see.nightledge.example/a/"><a href="../saturn-kit">x</a>', address)).toEqual([
      kit,
    ]);
    expect(
      own('<base href="/a/"><a href="../saturn-kit">x</a>', 'https://see.nightledge.example/b/c'),
    ).toEqual([kit]);
  });

  it('is kept as far as a record may be large, and says how many more addresses there are', () => {
    const many = (n: number, length: number) =>
      read(
        Array.from(
          { length: n },
          (_, i) => `<a href="https://see.nightledge.example/saturn-kit~s${i}?${'x'.repeat(length)}">k</a>`,
        ).join(''),
      );
    const short = many(2500, 1);
    expect([short.links.length, short.more]).toEqual([2000, 500]);
    expect(used(before, [short])[0]).toMatchObject({ more: 500 });
    const long = many(200, 4000);
    expect(checkRecord('page', long)).toMatchObject({ ok: true });
    expect(long.links.length + (long.more ?? 0)).toBe(200);
    expect(JSON.stringify(long).length).toBeLessThan(500_000);
  });

  it('is kept again where something changed, or a day has gone by', () => {
    expect(isNews(read('<p>nothing'), undefined)).toBe(false);
    expect(isNews(read(), undefined)).toBe(true);
    expect(isNews(read(html, 2000), read())).toBe(false);
    expect(isNews(read(html, 90_000_000), read())).toBe(true);
    expect(isNews(read('<p>nothing'), read())).toBe(true);
    expect(read('<p>nothing').id).toBe(read().id);
  });
});

describe('what is to be mended', () => {
  it.each<[string, ArticleRegister, [string, string | undefined]]>([
    [
      'an archived link',
      changed((link) => (link.slug === 'saturn-kit' ? { ...link, archived: { at: 1 } } : link)),
      ['lnk_saturnkit', 'ended'],
    ],
    [
      'a dead destination',
      { ...before, dead: new Map([['lnk_saturnkit', 'answers 404']]) },
      ['lnk_saturnkit', 'dead'],
    ],
    [
      'a program that was left',
      {
        ...before,
        programs: before.programs.map((p) =>
          p.id === 'prg_2093' ? { ...p, state: 'declined' as const } : p,
        ),
      },
      ['lnk_saturnkit', 'ended'],
    ],
    [
      'a merchant that forbids cloaking',
      {
        ...before,
        programs: before.programs.map((p) =>
          p.id === 'prg_2093'
            ? { ...p, rules: { cloak: false, name: '', ownLinks: false, mail: true, social: true } }
            : p,
        ),
      },
      ['lnk_saturnkit', 'rule'],
    ],
    [
      'a renamed link, whose earlier address answers',
      changed((link) =>
        link.slug === 'saturn-kit' ? { ...link, slug: 'rings', aliases: ['saturn-kit'] } : link,
      ),
      ['lnk_saturnkit', 'marks'],
    ],
    [
      'a removed link',
      { ...before, links: before.links.filter(({ slug }) => slug !== 'saturn-kit') },
      [undefined as never, 'nowhere'],
    ],
  ])('is seen by what the links are now: %s', (_what, now, [link, kind]) => {
    expect(mended(used(now))[0]).toEqual([link, 1, kind]);
  });

  it('is a link that stood there as it is and led where the link does not lead any more', () => {
    const now = changed((link) =>
      link.slug === 'red-lamp'
        ? { ...link, destination: trackingLink('https://polehouse.example/lamps/new') }
        : link,
    );
    const [page] = used(now);
    expect(page?.links[1]).toMatchObject({
      link: 'lnk_redlamp',
      follows: false,
      mend: { kind: 'earlier', says: 'red-lamp led there before, and does not now.' },
    });
    // Where the link itself has ended, there is none to say so of.
    const ended = changed((link) => (link.slug === 'red-lamp' ? { ...link, archived: { at: 1 } } : link));
    expect(used(ended)[0]?.links[1]).toMatchObject({ mend: { kind: 'raw' } });
    // A short address follows whatever its link becomes.
    expect(page?.links[0]).toMatchObject({ follows: true, mend: { kind: 'marks' } });
  });

  it('is a price and a coupon that are no longer so, and neither while they are', () => {
    const stale = (products: Product[]) =>
      used({ ...before, products })[0]?.stale.map(({ kind, says }) => [kind, says]);
    expect(stale([product])).toEqual([]);
    const { coupon: _, ...without } = product;
    expect(stale([{ ...without, price: { amount: 119_900, currency: 'EUR', day: '2026-11-12' } }])).toEqual([
      ['price', 'Kit costs 1199 EUR since 2026-11-12.'],
      ['coupon', 'The coupon NIGHT5 of Kit has ended.'],
    ]);
    expect(stale([])).toEqual([]);
  });
});

describe('where links are used', () => {
  it('joins what was read with what the journal heard, under any form of the address', () => {
    const [page, elsewhere] = used(
      before,
      [read()],
      [
        heardOf('http://www.nightledge.example/rings/', {
          views: 2,
          seconds: 30,
          depth: 50,
          links: [{ link: 'lnk_saturnkit', visitors: 3, newest: 5000, stands: true }],
        }),
        heardOf(address, {
          views: 1,
          seconds: 60,
          depth: 80,
          links: [
            { link: 'lnk_saturnkit', visitors: 1, newest: 7000, stands: false },
            // Somebody came by it before the page was read, and it is not there any more.
            { link: 'lnk_starmap', visitors: 4, newest: 500, stands: false },
            // It came by since: the page has it again, or by a script.
            { link: 'lnk_binos', visitors: 2, newest: 6000, stands: false },
          ],
        }),
        heardOf('https://forum.example/', {
          siteOnly: true,
          links: [{ link: 'lnk_saturnkit', visitors: 9, newest: 8000, stands: false }],
        }),
      ],
    );
    expect(page).toMatchObject({
      name: address,
      by: 'crawl',
      visitors: 10,
      newest: 5000,
      views: 3,
      seconds: 40,
      depth: 60,
    });
    expect(page?.links.map(({ link, visitors, gone }) => [link, visitors, gone])).toEqual([
      ['lnk_saturnkit', 4, false],
      ['lnk_redlamp', 0, false],
      ['lnk_redlamp', 0, false],
      [undefined, 0, false],
      ['lnk_starmap', 4, true],
      ['lnk_binos', 2, false],
    ]);
    expect(elsewhere).toMatchObject({ by: 'visitors', siteOnly: true, record: undefined, visitors: 9 });
  });

  it('is a table that reads back, whatever a page is called', () => {
    const pages = used(before, [{ ...read(), title: '=1+1, "quoted"\nline' }]);
    const table = readTable(usedCsv(pages, (id) => id));
    expect(table.rows.map((cells) => [cells[1], cells[4], cells[9]])).toEqual([
      ['=1+1, "quoted"\nline', 'lnk_saturnkit', 'marks'],
      ['=1+1, "quoted"\nline', 'lnk_redlamp', 'raw'],
      ['=1+1, "quoted"\nline', 'lnk_redlamp', 'shop'],
      ['=1+1, "quoted"\nline', '', 'nowhere'],
    ]);
  });
});
