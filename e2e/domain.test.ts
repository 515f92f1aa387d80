import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startBrowser } from './browser.ts';
import { deskWithLink } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

it('a new domain is followed until it answers by https, and says what is wrong meanwhile', async () => {
  const { server, context, page } = await deskWithLink(browser);
  await page.goto(`http://localhost:${server.port}/setup`);
  await page.getByLabel('Domain for short links').fill('go.nightledge.test');
  await page.getByRole('button', { name: 'Add domain' }).click();
  const card = page.getByRole('article').filter({ hasText: 'go.nightledge.test' });
  // Nothing has that name: the server says so.
  await card.getByText('The name go.nightledge.test leads nowhere yet. Make a record for it').waitFor();
  await card.getByText('it is looked at again until it answers.').waitFor();

  // Somewhere the record is made, and a certificate comes.
  let looks = 0;
  await page.route('**/api/domain-check', async (route) => {
    looks += 1;
    const response = await route.fetch();
    await route.fulfill({
      response,
      json: {
        good: looks > 1,
        says: looks > 1 ? 'It answers by https, at 11.0.0.5.' : 'Nothing answers there.',
      },
    });
  });
  await card.getByText('Nothing answers there.').waitFor();
  await card.getByText('It answers by https, at 11.0.0.5.').waitFor();
  expect(await card.getByText('it is looked at again').count()).toBe(0);
  expect(looks).toBe(2);
  await context.close();
  await server.stop();
});
