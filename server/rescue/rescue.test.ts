import { execFileSync, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import {
  appendFileSync,
  chownSync,
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import { beforeAll, describe, expect, it } from 'vitest';
import type { JournalDraft } from '#core/visits';
import { writeNewKey } from '../adminKey.ts';
import { builtFile } from '../built.ts';
import { dataFormat } from '../dataDir.ts';
import { chainName, inOrder, Journal, verifyJournal } from '../journal/index.ts';
import { freshFolder } from '../testing/process.ts';
import { smallDisk } from '../testing/smallDisk.ts';
import { finishRestore, makeBackup, restoreBackup } from './index.ts';

const now = Date.UTC(2026, 10, 25, 12);
const postback = (n: number, more = ''): JournalDraft => ({
  kind: 'postback',
  at: now - 1000 + n,
  network: 'net_h',
  via: 'GET',
  query: `txn=${n}${more}`,
  body: null,
  ip: '127.0.0.1',
});
const mail = (at: number, link: string, address: string) =>
  `${JSON.stringify({ at, link, mail: address, consent: 'Yes.' })}\n`;

/** A data folder with a journal of several files, a feed, and everything else a server writes. */
const dataFolder = async (identity: string, records: number): Promise<string> => {
  const data = freshFolder();
  writeFileSync(join(data, 'format'), `${dataFormat}\n`);
  writeFileSync(join(data, 'key'), 'the-key-of-this-server\n');
  writeFileSync(join(data, 'secret'), `${'ab'.repeat(32)}\n`);
  writeFileSync(join(data, 'salt'), 'the salt of today\n');
  writeFileSync(join(data, 'changes.ndjson'), `${JSON.stringify({ version: 1, change: identity })}\n`);
  writeFileSync(join(data, 'generations.ndjson'), `{"id":"${identity}1","version":0,"seq":0}\n`);
  const { journal } = await Journal.open(join(data, 'journal'), identity, {
    fileBytes: 1500,
    now: () => now,
  });
  for (let n = 1; n <= records; n++) await journal.keep(postback(n));
  await journal.close();
  return data;
};
const namesIn = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1))
    .sort();
/** All that a folder's server would read, in one sum. */
const stateOf = (data: string): string => {
  const hash = createHash('sha256');
  for (const name of namesIn(data).filter((one) => /^(journal\/|changes|generations|format)/.test(one)))
    hash.update(`${name}\n`).update(readFileSync(join(data, name)));
  return hash.digest('hex');
};
const backup = (data: string, to: string, mailAddresses = false) =>
  makeBackup({ data, to, mailAddresses, now });
const restore = (data: string, from: string, more: object = {}) =>
  restoreBackup({ data, from, evenIfBroken: false, evenIfOther: false, now: now + 60_000, ...more });

let data = '';
const place = freshFolder();
const good = join(place, 'good.tar.gz');
beforeAll(async () => {
  data = await dataFolder('HERE', 40);
  writeFileSync(join(data, 'waiting-list.ndjson'), mail(1, 'lnk_a', 'anna@reader.example'));
  await backup(data, good);
});

describe('a backup', () => {
  it('is an archive that tar and sha256sum read, with everything but keys, salt and mail addresses', () => {
    const into = freshFolder();
    execFileSync('tar', ['xzf', good, '-C', into]);
    expect(
      execFileSync('sha256sum', ['--check', '--strict', 'sums.sha256'], { cwd: into, encoding: 'utf8' }),
    ).not.toContain('FAILED');
    const journal = namesIn(data).filter((name) => name.startsWith('journal/'));
    expect(journal.length).toBeGreaterThan(4);
    expect(namesIn(into)).toEqual(
      ['backup.json', 'changes.ndjson', 'generations.ndjson', ...journal, 'sums.sha256'].sort(),
    );
    for (const name of journal)
      expect(readFileSync(join(into, name))).toEqual(readFileSync(join(data, name)));
    const all = gunzipSync(readFileSync(good)).toString('latin1');
    for (const secret of ['the-key-of-this-server', 'abababab', 'the salt of today', 'anna@reader.example'])
      expect(all).not.toContain(secret);
    expect(statSync(good).mode & 0o777).toBe(0o600);
    const manifest = JSON.parse(readFileSync(join(into, 'backup.json'), 'utf8')) as {
      seal: { hash: string };
    };
    const line = execFileSync('bash', ['-c', `tail -n 1 ${chainName} | tr -d '\\n' | sha256sum`], {
      cwd: join(data, 'journal'),
      encoding: 'utf8',
    });
    expect(manifest.seal.hash).toBe(line.split(' ')[0]);
  });

  it('reads the chain before the files it seals, and the change feed after the journal that tells of it', () => {
    const names = execFileSync('tar', ['tzf', good], { encoding: 'utf8' }).trimEnd().split('\n');
    const place = (name: string) => names.indexOf(name);
    const files = inOrder(names.map((name) => name.replace('journal/', ''))).map(({ name }) =>
      place(`journal/${name}`),
    );
    expect(files.length).toBeGreaterThan(2);
    expect(place(`journal/${chainName}`)).toBeLessThan(Math.min(...files));
    expect(place('changes.ndjson')).toBeGreaterThan(Math.max(...files));
  });

  it('holds whole lines only, of files that are being written', async () => {
    const copy = freshFolder();
    cpSync(data, copy, { recursive: true });
    const name = inOrder(readdirSync(join(copy, 'journal'))).at(-1)?.name ?? '';
    appendFileSync(join(copy, 'journal', name), '{"seq":41,"kind":"post');
    appendFileSync(join(copy, 'changes.ndjson'), '{"version":2,"chan');
    const to = join(place, 'torn.tar.gz');
    await backup(copy, to);
    const into = freshFolder();
    execFileSync('tar', ['xzf', to, '-C', into]);
    expect(readFileSync(join(into, 'journal', name), 'utf8').endsWith('}\n')).toBe(true);
    expect(readFileSync(join(into, 'changes.ndjson'), 'utf8')).toBe(
      readFileSync(join(data, 'changes.ndjson'), 'utf8'),
    );
  });

  it('that a full disk ends leaves nothing but the one of before, and says so in one line', async () => {
    const disk = smallDisk(64);
    const to = join(disk.folder, 'backup.tar.gz');
    await backup(data, to);
    const before = readFileSync(to);
    const big = freshFolder();
    cpSync(data, big, { recursive: true });
    // What cannot be packed smaller.
    writeFileSync(join(big, 'rejected.ndjson'), `"${randomBytes(300_000).toString('base64')}"\n`);
    const { status, stderr } = spawnSync(
      disk.command[0] ?? '',
      [...disk.command.slice(1), builtFile('backup.js'), '--data', big, '--to', to],
      { encoding: 'utf8' },
    );
    expect(status).toBe(2);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(stderr).toMatch(/^fernhop: The backup was not written: (?:ENOSPC|EFBIG).*is as it was\.$/m);
    expect(readFileSync(to)).toEqual(before);
    expect(readdirSync(disk.folder)).toEqual(['backup.tar.gz']);
    disk.close();
  });

  it('of no data folder is refused in one line', async () => {
    await expect(backup(freshFolder(), join(place, 'no.tar.gz'))).rejects.toThrow(
      /cannot be read: ENOENT.*Give the server's data folder with --data\.$/,
    );
    expect(existsSync(join(place, 'no.tar.gz'))).toBe(false);
  });
});

describe('a restore', () => {
  it('into an empty folder brings all of it back, with its identity, and notes itself in the chain', async () => {
    const fresh = join(freshFolder(), 'data');
    const restored = await restore(fresh, good);
    expect(restored).toMatchObject({ records: 40, aside: undefined, mailAddresses: 0 });
    expect(namesIn(fresh)).toEqual(
      namesIn(data).filter((name) => !['key', 'salt', 'secret', 'waiting-list.ndjson'].includes(name)),
    );
    const found = await verifyJournal(join(fresh, 'journal'));
    expect(found).toMatchObject({ identity: 'HERE', problems: [], records: 40, vouched: { seq: 40 } });
    expect(found.notes).toEqual([
      'A backup of 2026-11-25T12:00:00.000Z was put back on 2026-11-25T12:01:00.000Z: what was written between them is here only where browsers gave it back.',
    ]);
    // The next journal goes on with the chain.
    const { journal } = await Journal.open(join(fresh, 'journal'), 'NOT THIS', { now: () => now + 120_000 });
    expect([journal.identity, journal.seq]).toEqual(['HERE', 40]);
    await journal.keep(postback(41));
    await journal.close();
    expect(await verifyJournal(join(fresh, 'journal'))).toMatchObject({ problems: [], vouched: { seq: 41 } });
  });

  it('keeps the key, the salt and the mail addresses of the folder, and what was there before', async () => {
    const later = freshFolder();
    cpSync(data, later, { recursive: true });
    const { journal } = await Journal.open(join(later, 'journal'), 'HERE', { now: () => now });
    await journal.keep(postback(41));
    await journal.close();
    const before = readFileSync(join(later, 'journal', chainName));
    const { aside = '' } = await restore(later, good);
    for (const name of ['key', 'salt', 'secret', 'waiting-list.ndjson'])
      expect(readFileSync(join(later, name))).toEqual(readFileSync(join(data, name)));
    expect(readFileSync(join(aside, 'journal', chainName))).toEqual(before);
    expect((await verifyJournal(join(later, 'journal'))).records).toBe(40);
    expect(existsSync(join(later, 'restoring'))).toBe(false);
  });

  // A service is not root, and whoever rescues it often is.
  it.runIf(process.getuid?.() === 0)('made by root belongs to whoever the folder belongs to', async () => {
    const folder = freshFolder();
    const nobody = 65_534;
    chownSync(folder, nobody, nobody);
    await restore(folder, good);
    writeNewKey(folder);
    const owners = namesIn(folder).map((name) => [name, statSync(join(folder, name)).uid]);
    expect(owners.length).toBeGreaterThan(6);
    expect(owners.filter(([, uid]) => uid !== nobody)).toEqual([]);
    expect(statSync(join(folder, 'journal')).uid).toBe(nobody);
  });

  it('repeats the erasures that were made since the backup, those of the folder and those given', async () => {
    const full = freshFolder();
    cpSync(data, full, { recursive: true });
    const list = ['anna', 'ben', 'cleo', 'dora'].map((name, i) =>
      mail(i + 1, ['lnk_a', 'lnk_b', 'lnk_b', 'lnk_c'][i] ?? '', `${name}@reader.example`),
    );
    writeFileSync(join(full, 'waiting-list.ndjson'), list.join(''));
    const to = join(place, 'addresses.tar.gz');
    await backup(full, to, true);
    // Ben asked to be erased, with all that was left for that link until then; Dora on another machine.
    writeFileSync(join(full, 'waiting-list.ndjson'), '');
    writeFileSync(join(full, 'erasures.ndjson'), '{"at":2,"link":"lnk_b"}\n');
    const elsewhere = join(place, 'erasures.ndjson');
    writeFileSync(elsewhere, '{"at":9,"link":"lnk_c"}\n{"at":9,"li');
    expect(await restore(full, to, { erasures: elsewhere })).toMatchObject({
      mailAddresses: 2,
      erasedAgain: 2,
    });
    expect(readFileSync(join(full, 'waiting-list.ndjson'), 'utf8')).toBe(`${list[0] ?? ''}${list[2] ?? ''}`);
    // And again by whoever restores that folder's next backup.
    expect(readFileSync(join(full, 'erasures.ndjson'), 'utf8')).toBe(
      '{"at":2,"link":"lnk_b"}\n{"at":9,"link":"lnk_c"}\n',
    );
  });

  /** The backup's files in a folder, to be altered and packed again by another program. */
  const repacked = (alter: (into: string) => void, newSums = true): string => {
    const into = freshFolder();
    execFileSync('tar', ['xzf', good, '-C', into]);
    alter(into);
    const names = namesIn(into).filter((name) => name !== 'sums.sha256' && name !== 'backup.json');
    const entries = ['backup.json', ...names];
    const sumOf = (name: string) =>
      createHash('sha256')
        .update(readFileSync(join(into, name)))
        .digest('hex');
    if (newSums)
      writeFileSync(join(into, 'sums.sha256'), entries.map((name) => `${sumOf(name)}  ${name}\n`).join(''));
    const to = join(freshFolder(), 'b.tar.gz');
    execFileSync('tar', ['czf', to, '-C', into, ...entries, 'sums.sha256']);
    return to;
  };
  const alterJournal = (into: string): void => {
    const name = inOrder(readdirSync(join(into, 'journal')))[1]?.name ?? '';
    const path = join(into, 'journal', name);
    writeFileSync(path, readFileSync(path, 'utf8').replace('txn=1', 'txn=7'));
  };

  it.each<[string, () => string, string]>([
    [
      'cut short',
      () => {
        const to = join(freshFolder(), 'b.tar.gz');
        writeFileSync(to, readFileSync(good).subarray(0, -200));
        return to;
      },
      'unexpected end of file',
    ],
    [
      'cut short and packed anew',
      () => {
        const to = join(freshFolder(), 'b.tar.gz');
        writeFileSync(to, gzipSync(gunzipSync(readFileSync(good)).subarray(0, -3000)));
        return to;
      },
      'Unexpected end of data',
    ],
    [
      'that is no archive',
      () => {
        const to = join(freshFolder(), 'b.tar.gz');
        writeFileSync(to, 'nothing of the kind');
        return to;
      },
      'incorrect header check',
    ],
    [
      'of which a byte was changed',
      () => repacked((into) => appendFileSync(join(into, 'changes.ndjson'), '\n'), false),
      'changes.ndjson is not what was backed up: its sum is another',
    ],
    [
      'with a journal that was altered, and sums to match',
      () => repacked(alterJournal),
      'its journal is not what was sealed: ',
    ],
    [
      'without a change feed',
      () => repacked((into) => rmSync(join(into, 'changes.ndjson'))),
      'it holds no changes.ndjson',
    ],
    [
      'with a feed that is none',
      () => repacked((into) => appendFileSync(join(into, 'changes.ndjson'), 'x\n')),
      'changes.ndjson, line 2, is no change',
    ],
    [
      'with a file of somebody else',
      () => repacked((into) => writeFileSync(join(into, 'key'), 'mine\n')),
      'it holds "key", which no backup of Fernhop does',
    ],
    [
      'of a newer Fernhop',
      () =>
        repacked((into) => {
          const path = join(into, 'backup.json');
          writeFileSync(path, readFileSync(path, 'utf8').replace(`"format":${dataFormat}`, '"format":99'));
        }),
      'it is in format 99, and this Fernhop reads up to format',
    ],
  ])('of one %s is refused in one line, and the folder is as it was', async (_, make, words) => {
    const there = freshFolder();
    cpSync(data, there, { recursive: true });
    const before = stateOf(there);
    const from = make();
    await expect(restore(there, from)).rejects.toThrow(words);
    await expect(restore(there, from)).rejects.toThrow(/ was not put back: /);
    expect(stateOf(there)).toBe(before);
    expect(namesIn(there)).toEqual(namesIn(data));
  });

  it('refuses paths that lead out of the folder', async () => {
    const into = freshFolder();
    mkdirSync(join(into, 'journal'));
    writeFileSync(join(into, 'evil'), 'x');
    const to = join(freshFolder(), 'b.tar.gz');
    execFileSync('tar', ['czf', to, '-C', into, 'evil', '--transform', 's,^evil$,journal/../../evil,', '-P']);
    await expect(restore(freshFolder(), to)).rejects.toThrow('it holds "journal/../../evil"');
  });

  it('puts a broken one back where it is told to, and says what is wrong', async () => {
    const fresh = freshFolder();
    const { problems } = await restore(fresh, repacked(alterJournal), { evenIfBroken: true });
    expect(problems).toHaveLength(1);
    expect((await verifyJournal(join(fresh, 'journal'))).problems).toEqual(problems);
  });

  it('of another server’s data asks to be told so', async () => {
    const other = await dataFolder('ELSEWHERE', 3);
    await expect(restore(other, good)).rejects.toThrow('it is of another server (HERE) than the data in');
    const { aside = '' } = await restore(other, good, { evenIfOther: true });
    expect(readFileSync(join(aside, 'journal/identity'), 'utf8').trim()).toBe('ELSEWHERE');
  });

  it('waits for nobody: a folder that a server holds is refused', async () => {
    const there = freshFolder();
    writeFileSync(join(there, 'lock'), `${process.pid} `);
    const { status, stderr } = spawnSync(
      process.execPath,
      [builtFile('restore.js'), '--data', there, '--from', good],
      { encoding: 'utf8' },
    );
    expect(status).toBe(2);
    expect(stderr).toContain(`is in use by process ${process.pid}. Stop it first`);
  });

  it(
    'killed at any step leaves the folder as it was, or as the backup is, once it is opened again',
    { timeout: 180_000 },
    async () => {
      const old = await dataFolder('HERE', 7);
      const before = stateOf(old);
      const whole = freshFolder();
      const seen = new Set<string>();
      let steps = 0;
      for (let n = 1; ; n++) {
        const there = freshFolder();
        cpSync(old, there, { recursive: true });
        // The process kills itself, with no warning, before its n-th step on the disk.
        const die = `import fs from 'node:fs/promises'; import { syncBuiltinESMExports } from 'node:module';
        let n = ${n};
        for (const name of ['rename', 'rm', 'mkdir', 'writeFile', 'open']) {
          const does = fs[name];
          fs[name] = (...args) => { if (--n === 0) process.kill(process.pid, 'SIGKILL'); return does(...args); };
        }
        syncBuiltinESMExports();`;
        const { status, signal } = spawnSync(
          process.execPath,
          [
            '--import',
            `data:text/javascript,${encodeURIComponent(die)}`,
            builtFile('restore.js'),
            '--data',
            there,
            '--from',
            good,
          ],
          { encoding: 'utf8' },
        );
        if (status === 0) break;
        expect(signal).toBe('SIGKILL');
        steps = n;
        await finishRestore(there);
        expect(existsSync(join(there, 'restoring'))).toBe(false);
        const { records, problems } = await verifyJournal(join(there, 'journal'));
        expect([n, problems]).toEqual([n, []]);
        if (records === 7) expect([n, stateOf(there)]).toEqual([n, before]);
        else {
          expect(records).toBe(40);
          expect(readFileSync(join(there, 'changes.ndjson'))).toEqual(
            readFileSync(join(data, 'changes.ndjson')),
          );
          const [aside = ''] = readdirSync(there).filter((name) => name.startsWith('before-restore-'));
          rmSync(whole, { recursive: true });
          cpSync(join(there, aside), whole, { recursive: true });
          expect([n, stateOf(whole)]).toEqual([n, before]);
        }
        expect(readFileSync(join(there, 'key'), 'utf8')).toContain('the-key');
        seen.add(records === 7 ? 'as it was' : 'as the backup');
      }
      expect(steps).toBeGreaterThan(20);
      expect([...seen].sort()).toEqual(['as it was', 'as the backup']);
    },
  );
});
