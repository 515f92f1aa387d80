import 'fake-indexeddb/auto';
import { afterEach, expect, it } from 'vitest';
import { useCatalogue } from '../data/catalogue.ts';
import { mount } from '../testing/mount.ts';
import ClassificationSection from './ClassificationSection.vue';

let leave = () => {};
afterEach(() => leave());
const minutes = 'Minutes in which the same visitor on the same link counts once';
const section = async () => {
  const page = await mount(ClassificationSection, {});
  leave = page.leave;
  const catalogue = useCatalogue();
  const offersToCount = () => page.host.textContent.includes('Count anew');
  return { ...page, catalogue, offersToCount };
};
const settled = () => new Promise((resolve) => setTimeout(resolve, 50));

it('offers to count anew only once something differs', async () => {
  const { byLabel, offersToCount, type } = await section();
  expect(byLabel(minutes).value).toBe('30');
  expect(offersToCount()).toBe(false);
  await type(minutes, '45');
  expect(offersToCount()).toBe(true);
  await type(minutes, '30');
  expect(offersToCount()).toBe(false);
});

it('refuses an empty number in words, and keeps what counted before', async () => {
  const { host, type, catalogue, press } = await section();
  await type(minutes, '');
  await press('Count anew');
  host.querySelector('form')?.dispatchEvent(new Event('submit', { cancelable: true }));
  await settled();
  expect(host.querySelector('p[role=alert]')?.textContent).toBe(
    'Each of the three numbers is needed: one of them is empty.',
  );
  expect(catalogue.settings.classification).toBeUndefined();
});

it('keeps the rules as they were typed', async () => {
  const { host, type, catalogue } = await section();
  await type(minutes, '45');
  await type('Pieces of user agents that are robots too, one a line', 'PagePoller\n\n  LinkLooker ');
  host.querySelector('form')?.dispatchEvent(new Event('submit', { cancelable: true }));
  await settled();
  expect(catalogue.settings.classification).toMatchObject({
    repeatMinutes: 45,
    robots: ['PagePoller', 'LinkLooker'],
  });
});
