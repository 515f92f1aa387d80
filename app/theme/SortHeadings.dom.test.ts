import { afterEach, expect, it } from 'vitest';
import { mount } from '../testing/mount.ts';
import SortHeadings from './SortHeadings.vue';

let leave = () => {};
afterEach(() => leave());

it('says by which column a table is sorted and which way, and sorts only by what has an order', async () => {
  const pressed: string[] = [];
  const page = await mount(SortHeadings, {
    columns: [
      { name: 'link', title: 'Link', key: () => '' },
      { name: 'when', title: 'When', under: 'Europe/Berlin', sortable: true },
      { name: 'do', title: 'What to do' },
    ],
    wayOf: (column: string) => (column === 'when' ? 'down' : undefined),
    onSort: (column: string) => pressed.push(column),
  });
  leave = page.leave;
  const [link, when, what] = page.host.querySelectorAll('th');
  expect([link, when, what].map((th) => th?.getAttribute('aria-sort') ?? null)).toEqual([
    null,
    'descending',
    null,
  ]);
  expect(when?.querySelector('small')?.textContent).toBe('Europe/Berlin');
  expect(what?.querySelector('button') ?? null).toBeNull();
  link?.querySelector('button')?.click();
  when?.querySelector('button')?.click();
  expect(pressed).toEqual(['link', 'when']);
  await page.give({ wayOf: (column: string) => (column === 'link' ? 'up' : undefined) });
  expect(link?.getAttribute('aria-sort')).toBe('ascending');
  expect(when?.getAttribute('aria-sort') ?? null).toBeNull();
});
