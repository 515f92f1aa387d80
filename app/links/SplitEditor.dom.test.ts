import { afterEach, expect, it } from 'vitest';
import type { Branch } from '#core/catalogue';
import { everyoneElse } from '#core/hop';
import { mount } from '../testing/mount.ts';
import SplitEditor from './SplitEditor.vue';

let leave = () => {};
afterEach(() => leave());

const branch = (id: string, more: Partial<Branch> = {}): Branch => ({
  id,
  name: id,
  when: { countries: ['DE'] },
  destination: `https://shop.example/${id}`,
  weight: 1,
  ...more,
});

const editor = async (branches: Branch[], came: ReadonlyMap<string, number> = new Map()) => {
  let now = branches;
  const page = await mount(SplitEditor, {
    modelValue: branches,
    weight: 1,
    zone: 'Europe/Berlin',
    destination: 'https://shop.example/',
    warnings: [{ branch: 'b2', words: 'Nobody reaches it.' }],
    came,
    'onUpdate:modelValue': (next: Branch[]) => {
      now = next;
      void page.give({ modelValue: next });
    },
  });
  leave = page.leave;
  return { ...page, now: () => now };
};
const key = (target: HTMLElement, name: string) =>
  target.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }));
const settled = () => new Promise((resolve) => setTimeout(resolve, 20));

it('moves a branch with the arrow keys, keeps the keyboard on it and says where it is tried now', async () => {
  const { host, now } = await editor([branch('b1'), branch('b2'), branch('b3')]);
  const grip = (id: string) => host.querySelector<HTMLElement>(`[data-branch="${id}"] .grip`);
  key(grip('b1') ?? host, 'ArrowDown');
  await settled();
  expect(now().map(({ id }) => id)).toEqual(['b2', 'b1', 'b3']);
  expect(document.activeElement).toBe(grip('b1'));
  expect(host.querySelector('[role=status]')?.textContent).toBe('Branch 1 is now tried as number 2.');
  // The first cannot go higher.
  key(grip('b2') ?? host, 'ArrowUp');
  await settled();
  expect(now().map(({ id }) => id)).toEqual(['b2', 'b1', 'b3']);
});

it('adds a branch under an ID of its own, to the link’s own destination, and the keyboard goes there', async () => {
  const { host, now, press } = await editor([branch('b1'), branch('b2')]);
  await press('Add a branch');
  await settled();
  const added = now().at(-1);
  expect(now().length).toBe(3);
  expect(['b1', 'b2']).not.toContain(added?.id);
  expect(added).toMatchObject({ when: {}, destination: 'https://shop.example/', weight: 1 });
  expect(host.querySelector(`[data-branch="${added?.id}"]`)?.contains(document.activeElement)).toBe(true);
});

it('removes the branch that was meant, and says a warning at its branch alone', async () => {
  const { host, now, press } = await editor([branch('b1'), branch('b2'), branch('b3')]);
  expect(host.querySelector('[data-branch=b2]')?.textContent).toContain('Nobody reaches it.');
  expect(host.querySelector('[data-branch=b1]')?.textContent).not.toContain('Nobody reaches it.');
  await press('Remove branch 2');
  expect(now().map(({ id }) => id)).toEqual(['b1', 'b3']);
});

it('says what came to each so far, and nothing where nobody came', async () => {
  const { host, give } = await editor(
    [branch('b1'), branch('b2')],
    new Map([
      ['b1', 30],
      [everyoneElse, 10],
    ]),
  );
  expect(host.querySelector('[data-branch=b1] .came')?.textContent).toBe('30 came so far, 75 %');
  expect(host.querySelector('[data-branch=b2] .came')?.textContent).toBe('0 came so far, 0 %');
  expect(host.querySelector('.rest')?.textContent).toContain('10 came so far, 25 %');
  await give({ came: new Map() });
  expect(host.textContent).not.toContain('so far');
});

it('takes a weight as a number, and an empty one as none', async () => {
  const { now, type } = await editor([branch('b1')]);
  await type('Weight of branch 1', '7');
  expect(now()[0]?.weight).toBe(7);
  await type('Weight of branch 1', '');
  expect(now()[0]?.weight).toBe(0);
});
