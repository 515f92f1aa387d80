import { chromium } from 'playwright-core';
import { fillFirst } from '../server/client.ts';
import { startProcess } from '../server/testing/process.ts';
import { undisturbed } from './undisturbed.ts';

/** What the first screen costs a person who was never here: kilobytes of compressed script, and milliseconds. */
export interface FirstScreen {
  readonly scriptKilobytes: number;
  /** From the browser's leaving for the address until the link stands in the list and the server has answered. */
  readonly usableMs: number;
}

const flags =
  '--no-sandbox --disable-gpu --disable-quic --disable-background-networking --disable-component-update --disable-sync --no-first-run';

/** Opens the first screen with an empty profile, several times over. */
export const measureFirstScreen = async (times: number): Promise<FirstScreen[]> => {
  const server = await startProcess();
  await fillFirst(server);
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: flags.split(' ') });
  const found: FirstScreen[] = [];
  const once = async (): Promise<FirstScreen> => {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    // Looked for in the page itself: asking from outside would take part of the time that is measured.
    await context.addInitScript(() => {
      const look = () => {
        const text = document.body?.textContent ?? '';
        if (!text.includes('saturn-kit') || !text.includes('The link is live')) return;
        observer.disconnect();
        requestAnimationFrame(() => performance.mark('usable'));
      };
      const observer = new MutationObserver(look);
      observer.observe(document, { subtree: true, childList: true, characterData: true });
    });
    const page = await context.newPage();
    const session = await context.newCDPSession(page);
    await session.send('Network.enable');
    const scripts = new Set<string>();
    let bytes = 0;
    session.on('Network.responseReceived', ({ requestId, response }) => {
      if (response.url.endsWith('.js')) scripts.add(requestId);
    });
    session.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
      if (scripts.has(requestId)) bytes += encodedDataLength;
    });
    await page.goto(`http://localhost:${server.port}/links#key=${server.key}`, { waitUntil: 'commit' });
    const marked = await page.waitForFunction(
      () => performance.getEntriesByName('usable')[0]?.startTime,
      undefined,
      { polling: 250 },
    );
    const usableMs = Number(await marked.jsonValue());
    await page.waitForTimeout(300);
    await context.close();
    return { scriptKilobytes: bytes / 1024, usableMs };
  };
  for (let n = 0; n < times; n++) found.push((await undisturbed(once)).value);
  await browser.close();
  await server.stop();
  return found;
};
