import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, it } from 'vitest';
import { fillFirst } from '../server/client.ts';
import { smallDisk } from '../server/testing/smallDisk.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, untilLive } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

describe('a full disk', () => {
  it('is said on the screen, edits wait, and it recovers', async () => {
    const disk = smallDisk();
    const server = await startServer({
      dataDir: disk.folder,
      command: disk.command,
      env: { DISK_RESERVE_MB: '0' },
    });
    const { key } = await fillFirst(server);
    const person = await freshPerson(browser);
    const app = await openApp(person, server, '/links/lnk_saturn');
    await untilLive(app);

    if (disk.canRecover)
      try {
        writeFileSync(join(disk.folder, 'ballast'), Buffer.alloc(1024 * 1024));
      } catch {
        // Writing until nothing more fits is the point.
      }
    for (let n = 0; n < 40; n++)
      await send(`http://localhost:${server.port}/postback/${key}?txn=${n}&x=${'y'.repeat(8000)}`);
    await app.getByText('Server cannot write').waitFor();

    if (disk.canRecover) {
      await app.getByRole('button', { name: 'Edit entry' }).click();
      await app.getByLabel('Notes').fill('z'.repeat(3900));
      await app.getByRole('button', { name: 'Save' }).click();
      await app.getByText('Saved here. It goes live when the server has taken it.').waitFor();
      rmSync(join(disk.folder, 'ballast'));
      await app.getByText('The link is live').waitFor();
      await untilLive(app);
    }
    await person.close();
    await server.stop(disk.canRecover ? 'SIGTERM' : 'SIGKILL');
    disk.close();
  });
});
