import { spawn } from 'node:child_process';
import { closeSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { afterAll, vi } from 'vitest';
import { present } from '#core/catalogue';
import { smallDisk } from '../server/testing/smallDisk.ts';
import { flags } from './browser.ts';

/** Ends what a test that failed left running. */
const kills: (() => Promise<void>)[] = [];
afterAll(() => Promise.all(kills.map((kill) => kill())));

/** A Chromium with a profile on disk, that can be killed as the system kills it. */
export const onDisk = async (profile: string) => {
  const child = spawn(
    '/usr/bin/chromium',
    [...flags, '--headless', '--remote-debugging-port=0', `--user-data-dir=${profile}`, 'about:blank'],
    { stdio: ['ignore', 'ignore', 'pipe'], detached: true },
  );
  const address = await new Promise<string>((resolve, reject) => {
    let text = '';
    child.stderr.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      const found = /DevTools listening on (\S+)/.exec(text)?.[1];
      if (found !== undefined) resolve(found);
    });
    child.on('exit', () => reject(new Error(`Chromium ended: ${text}`)));
  });
  const connected = await chromium.connectOverCDP(address);
  const [window] = connected.contexts();
  if (!window) throw new Error('Chromium has a window.');
  const kill = async () => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((resolve) => child.on('exit', resolve));
    process.kill(-present(child.pid, 'process of Chromium'), 'SIGKILL');
    await gone;
  };
  kills.push(kill);
  return { window, kill };
};

/** A Chromium whose disk can be filled to the last byte. Only root can have one. */
export const onSmallDisk = async () => {
  const disk = smallDisk(100 * 1024);
  const own = await onDisk(join(disk.folder, 'profile'));
  const filler = join(disk.folder, 'filler');
  let stopFilling = (): void => undefined;
  return {
    ...own,
    /** Fills it, and fills what the browser frees of its caches, until it is freed. */
    fill: async () => {
      const file = openSync(filler, 'a');
      const block = Buffer.alloc(4096);
      const fillUp = () => {
        try {
          for (;;) writeSync(file, block);
        } catch (error) {
          if ((error as NodeJS.ErrnoException).code !== 'ENOSPC') throw error;
        }
      };
      fillUp();
      const timer = setInterval(fillUp, 20);
      stopFilling = () => {
        stopFilling = () => undefined;
        clearInterval(timer);
        closeSync(file);
      };
      await new Promise((resolve) => setTimeout(resolve, 1000));
    },
    free: () => {
      stopFilling();
      rmSync(filler);
    },
    end: async () => {
      stopFilling();
      await own.kill();
      await vi.waitFor(() => disk.close(), { timeout: 10_000 });
    },
  };
};
