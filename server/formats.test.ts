import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { send } from '../standins/index.ts';
import { call, readJournal } from './client.ts';
import { openDataset } from './dataFolder.ts';
import { dataFormat } from './dataDir.ts';
import { inOrder, verifyJournal } from './journal/index.ts';
import { bringToFormat } from './migrate.ts';
import { keptBy } from './testing/load.ts';
import { freshFolder, startProcess } from './testing/process.ts';
import { smallDisk } from './testing/smallDisk.ts';

/** Folders that servers of earlier formats wrote, each with a domain, a network, a program, a link, hops and postbacks. */
const folders = join(dirname(fileURLToPath(import.meta.url)), 'testing/folders');
const formats = readdirSync(folders).map((name) => Number(/^format-(\d+)$/.exec(name)?.[1]));
const copyOf = (format: number): string => {
  const folder = freshFolder();
  cpSync(join(folders, `format-${format}`), folder, { recursive: true });
  return folder;
};
const journalOf = (folder: string): Map<string, Buffer> => {
  const at = join(folder, 'journal');
  return new Map(inOrder(readdirSync(at)).map(({ name }) => [name, readFileSync(join(at, name))]));
};
const quiet = { now: Date.now, log: () => undefined };

describe('the format of a data folder', () => {
  it('is written into a new one, which is then taken again', async () => {
    const folder = freshFolder();
    await bringToFormat(folder, quiet);
    expect(readFileSync(join(folder, 'format'), 'utf8')).toBe(`${dataFormat}\n`);
    await expect(bringToFormat(folder, quiet)).resolves.toBeUndefined();
    expect(existsSync(join(folder, 'backups'))).toBe(false);
  });

  it('has a folder here for every one that is a promise', () => {
    expect(formats.sort((a, b) => a - b)).toEqual(Array.from({ length: dataFormat - 1 }, (_, i) => i + 2));
  });

  it.each(formats)(
    '%i is read: links answer, postbacks are taken, all that was written is there',
    async (format) => {
      const folder = copyOf(format);
      const written = journalOf(folder);
      const server = await startProcess({ dataDir: folder });
      expect(readFileSync(join(folder, 'format'), 'utf8')).toBe(`${dataFormat}\n`);

      const { changes } = JSON.parse((await call(server, 'GET', '/changes?after=0')).body) as {
        changes: { kind: string; value: { title?: string; postback?: { key: string } } }[];
      };
      expect(changes.map(({ kind }) => kind).sort()).toEqual(['domain', 'link', 'network', 'program']);
      expect(changes.find(({ kind }) => kind === 'link')?.value.title).toBe(
        'Saturn eyepiece kit, second edition',
      );
      const before = await readJournal(server);
      expect(before.map(({ seq }) => seq)).toEqual(before.map((_, i) => i + 1));
      expect([...keptBy(before)]).toEqual(Array.from({ length: 7 }, (_, n) => [`HM-${n}`, 1]));
      expect(before.filter(({ kind }) => kind === 'hop')).toHaveLength(12);

      expect((await send(`http://see.nightledge.localhost:${server.port}/saturn`)).status).toBe(307);
      const key = changes.find(({ kind }) => kind === 'network')?.value.postback?.key ?? '';
      expect((await send(`http://localhost:${server.port}/postback/${key}?txn=HM-7`)).status).toBe(200);
      await server.stop();

      // What was there is there byte for byte: records were only added.
      for (const [name, content] of written)
        expect(readFileSync(join(folder, 'journal', name)).subarray(0, content.length)).toEqual(content);
      expect(await verifyJournal(join(folder, 'journal'))).toMatchObject({ problems: [], unsealed: 0 });
      expect((await openDataset(folder)).records.links).toHaveLength(1);
    },
  );

  it.each(formats.filter((format) => format < dataFormat))(
    '%i is backed up before it is brought along',
    async (format) => {
      const folder = copyOf(format);
      const written = journalOf(folder);
      await bringToFormat(folder, quiet);
      const into = freshFolder();
      execFileSync('tar', ['xzf', join(folder, 'backups', `before-format-${dataFormat}.tar.gz`), '-C', into]);
      expect(JSON.parse(readFileSync(join(into, 'backup.json'), 'utf8'))).toMatchObject({ format });
      expect(journalOf(into)).toEqual(written);
      expect(journalOf(folder)).toEqual(written);
    },
  );

  // Only root may mount a disk small enough to be filled.
  it.runIf(process.getuid?.() === 0)(
    'is not brought along where there is no room for the backup, and is as it was',
    async () => {
      const disk = smallDisk(128);
      cpSync(join(folders, 'format-2'), disk.folder, { recursive: true });
      const { bavail, bsize } = statfsSync(disk.folder);
      // One block is left, for the lock.
      writeFileSync(join(disk.folder, 'ballast'), Buffer.alloc((bavail - 1) * bsize));
      await expect(startProcess({ dataDir: disk.folder, command: disk.command })).rejects.toThrow(
        /fernhop: The backup was not written: ENOSPC/,
      );
      expect(readFileSync(join(disk.folder, 'format'), 'utf8')).toBe('2\n');
      expect(journalOf(disk.folder)).toEqual(journalOf(join(folders, 'format-2')));
      rmSync(join(disk.folder, 'ballast'));
      await (await startProcess({ dataDir: disk.folder })).stop();
      expect(readFileSync(join(disk.folder, 'format'), 'utf8')).toBe(`${dataFormat}\n`);
      disk.close();
    },
  );

  it.each([
    [
      'from before there was a number',
      { 'changes.ndjson': '' },
      /is in format 1, and this Fernhop reads formats 2 to \d+\. Set DATA_DIR to an empty folder/,
    ],
    [
      'of an older number',
      { format: '1\n', 'changes.ndjson': '' },
      /is in format 1, .*Set DATA_DIR to an empty folder/,
    ],
    [
      'of a newer number',
      { format: '99\n' },
      /is in format 99, and this Fernhop reads formats 2 to \d+\. A newer one wrote it: .*Nothing was changed\./,
    ],
  ])('%s is refused by one line that says what to do, and nothing is written', async (_, files, words) => {
    const dataDir = freshFolder();
    for (const [name, text] of Object.entries(files)) writeFileSync(join(dataDir, name), text);
    await expect(startProcess({ dataDir })).rejects.toThrow(words);
    await expect(bringToFormat(dataDir, quiet)).rejects.toThrow(words);
    expect(readdirSync(dataDir).sort()).toEqual(Object.keys(files).sort());
  });
});
