import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { readdirSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { send } from '../standins/index.ts';
import { builtFile } from './built.ts';
import { call, fillFirst, readJournal } from './client.ts';
import { makeBackup, restoreBackup } from './rescue/index.ts';
import type { Acknowledged } from './testing/load.ts';
import { keptBy, nothingAcknowledged, putUnderLoad, recordsOf } from './testing/load.ts';
import { freePort, freshFolder, startProcess } from './testing/process.ts';
import { smallDisk } from './testing/smallDisk.ts';

const backups = 20;
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Runs the command as a person does; gives its exit code. */
const backupCommand = (data: string, to: string): Promise<number | null> =>
  new Promise((resolve) =>
    spawn(process.execPath, [builtFile('backup.js'), '--data', data, '--to', to], { stdio: 'ignore' }).on(
      'exit',
      resolve,
    ),
  );

describe('backups of a server under load', () => {
  it(
    `${backups} of them, with kill -9 in between, each restore to a server that has all it acknowledged before`,
    { timeout: 300_000 },
    async () => {
      const dataDir = freshFolder();
      const port = await freePort();
      const place = freshFolder();
      let server = await startProcess({ dataDir, port });
      const filled = await fillFirst(server);
      const acknowledged = nothingAcknowledged();
      const made: { readonly file: string; readonly before: Acknowledged }[] = [];
      for (let n = 0; n < backups; n++) {
        const endLoad = putUnderLoad(server, filled, acknowledged);
        await pause(50 + Math.random() * 100);
        const before = { postbacks: new Set(acknowledged.postbacks), links: new Set(acknowledged.links) };
        const file = join(place, `${n}.tar.gz`);
        const backup = backupCommand(dataDir, file);
        if (n % 2 === 0) {
          // The server dies somewhere within the backup, and another one is started on what it left.
          await pause(Math.random() * 300);
          server.child.kill('SIGKILL');
          const next = startProcess({ dataDir, port });
          await endLoad();
          server = await next;
        }
        expect(await backup).toBe(0);
        if (n % 2 === 1) await endLoad();
        made.push({ file, before });
      }
      expect(acknowledged.postbacks.size).toBeGreaterThan(backups * 5);
      const { identity } = JSON.parse((await call(server, 'GET', '/about')).body) as { identity: string };
      await server.stop();

      for (const { file, before } of made) {
        const folder = freshFolder();
        const restored = await restoreBackup({
          data: folder,
          from: file,
          evenIfBroken: false,
          evenIfOther: false,
          now: Date.now(),
        });
        expect(restored.manifest.identity).toBe(identity);
        const rescued = await startProcess({ dataDir: folder });
        const journal = await readJournal(rescued);
        expect(journal.map(({ seq }) => seq)).toEqual(journal.map((_, i) => i + 1));
        const kept = keptBy(journal);
        expect([...before.postbacks].filter((id) => kept.get(id) !== 1)).toEqual([]);
        const records = await recordsOf(rescued);
        expect([...before.links].filter((id) => !records.has(id))).toEqual([]);
        const versions = journal.flatMap((record) => (record.kind === 'change' ? [record.version] : []));
        expect(versions).toEqual(versions.map((_, i) => i + 1));
        expect(JSON.parse((await call(rescued, 'GET', '/about')).body)).toMatchObject({
          identity,
          damages: [],
        });
        // It goes on hopping and taking postbacks at the addresses that are out in the world.
        expect((await send(`http://see.nightledge.localhost:${rescued.port}/saturn`)).status).toBe(307);
        expect((await send(`http://localhost:${rescued.port}/postback/${filled.key}?txn=AFTER`)).status).toBe(
          200,
        );
        await rescued.stop();
      }
    },
  );

  // Only root may mount a disk small enough to be filled.
  it.runIf(process.getuid?.() === 0)(
    'that fills the disk of the server costs no postback, and leaves nothing',
    async () => {
      const disk = smallDisk(2048);
      const server = await startProcess({
        dataDir: disk.folder,
        command: disk.command,
        env: { DISK_RESERVE_MB: '0' },
      });
      const { key } = await fillFirst(server);
      // What cannot be packed much smaller than it is: the backup does not fit beside it.
      const postback = (id: string) =>
        send(
          `http://localhost:${server.port}/postback/${key}?txn=${id}&x=${randomBytes(3000).toString('hex')}`,
        );
      for (let n = 0; n < 220; n++) expect((await postback(`B${n}`)).status).toBe(200);
      await expect(
        makeBackup({
          data: disk.folder,
          to: join(disk.folder, 'backup.tar.gz'),
          mailAddresses: false,
          now: Date.now(),
        }),
      ).rejects.toThrow(/The backup was not written: ENOSPC/);
      expect(readdirSync(disk.folder).filter((name) => name.startsWith('backup'))).toEqual([]);
      expect((await postback('AFTER')).status).toBe(200);
      expect(keptBy(await readJournal(server)).get('AFTER')).toBe(1);
      await server.stop();
      disk.close();
    },
  );
});
