import type { Browser, BrowserContext } from 'playwright-core';
import { chromium } from 'playwright-core';

/** What a Chromium is started with in a machine without a screen. */
export const flags = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
];

/**
 * For visitors whose beacons count: what a page sends while it is left has the browser's own user agent, whatever a context says, and
 * without a window that is a machine's.
 */
export const asPerson = [
  '--user-agent=Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36',
];

/** Starts Debian's Chromium without a window. */
export const startBrowser = (more: readonly string[] = []): Promise<Browser> =>
  chromium.launch({ executablePath: '/usr/bin/chromium', args: [...flags, ...more], headless: true });

/** A fresh person at a desk: an empty profile that may use the clipboard. */
export const freshPerson = (browser: Browser, more: object = {}): Promise<BrowserContext> =>
  browser.newContext({
    viewport: { width: 1280, height: 800 },
    // Without a window Chromium calls itself headless, which the classification rightly takes for a machine.
    userAgent: `Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/${browser.version().split('.')[0] ?? ''}.0.0.0 Safari/537.36`,
    locale: 'en-GB',
    timezoneId: 'Europe/Berlin',
    permissions: ['clipboard-read', 'clipboard-write'],
    // What keeps the files for opening offline answers in the place of what tests put in the way; its own test lets it.
    serviceWorkers: 'block',
    ...more,
  });
