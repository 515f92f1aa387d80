import { readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Answers } from '#core/queries';
import { answersFrom } from '#core/queries';
import { openDataset } from '../server/dataFolder.ts';
import { readConfig } from '../server/config.ts';
import { inOrder, Journal, verifyJournal } from '../server/journal/index.ts';
import { writeExcerpt } from '../server/keeping/excerpt.ts';
import { firstKept, removeOld } from '../server/keeping/keeping.ts';
import { makeBackup, restoreBackup } from '../server/rescue/index.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { fillSeason } from './fill.ts';

const end = Date.UTC(2026, 10, 23, 15);
const networks = ['net_harrowmead', 'net_kelvane', 'net_osprenet', 'net_vennor'];
const months = ['2026-08', '2026-09', '2026-10', '2026-11'];
const dataDir = freshFolder();
const journalDir = join(dataDir, 'journal');
const open = async (now: number) => (await Journal.open(journalDir, 'UNUSED', { now: () => now })).journal;
const remove = (journal: Journal, now: number, kept: number | undefined) =>
  removeOld({
    dataDir,
    journal,
    months: () => kept,
    now: () => now,
    log: () => undefined,
    excerpt: writeExcerpt,
  });

/** All that a reckoning says, of each network and month. */
const everything = (ask: Answers) =>
  networks.flatMap((network) =>
    months.map((month) => {
      const scope = { network, month };
      return {
        scope,
        balance: ask.balance(scope),
        queue: ask.queue(scope),
        closing: ask.closing(network, month),
        claim: ask.claim(scope).length,
        total: ask.ledger(scope, '', 10).total,
      };
    }),
  );

describe('requests that are kept for so many months', () => {
  let before: ReturnType<typeof everything>;
  let bytes = 0;
  beforeAll(async () => {
    await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(await freePort()) }), 20_000, end);
    before = everything(answersFrom(await openDataset(dataDir)));
    bytes = inOrder(readdirSync(journalDir)).reduce(
      (sum, { name }) => sum + statSync(join(journalDir, name)).size,
      0,
    );
  });

  it('are counted in whole months of UTC', () => {
    expect(new Date(firstKept(Date.UTC(2026, 10, 27), 6)).toISOString()).toBe('2026-05-01T00:00:00.000Z');
    expect(new Date(firstKept(Date.UTC(2027, 0, 31), 12)).toISOString()).toBe('2026-01-01T00:00:00.000Z');
    expect(new Date(firstKept(Date.UTC(2026, 2, 1), 36)).toISOString()).toBe('2023-03-01T00:00:00.000Z');
  });

  it('stay where nobody asked otherwise, and while they are young', async () => {
    const journal = await open(end);
    expect(await remove(journal, end, undefined)).toBe(0);
    expect(await remove(journal, end, 6)).toBe(0);
    await journal.close();
  });

  it('go by whole sealed files, and every balance, case and figure of each month stays as it was', async () => {
    const names = inOrder(readdirSync(journalDir)).map(({ name }) => name);
    // In April, everything before October goes; in May, October as well.
    for (const [month, gone] of [
      [3, /2026-0[89]-/],
      [4, /2026-(?:0[89]|10)-/],
    ] as const) {
      const now = Date.UTC(2027, month, 2);
      const journal = await open(now);
      expect(await remove(journal, now, 6)).toBeGreaterThan(20);
      expect(await remove(journal, now, 6)).toBe(0);
      const left = inOrder(readdirSync(journalDir)).map(({ name }) => name);
      expect(left).toEqual(names.filter((name) => !gone.test(name)));
      // A restart finds the same.
      await journal.close();
      await (await open(now)).close();
      expect(inOrder(readdirSync(journalDir)).map(({ name }) => name)).toEqual(left);
      const data = await openDataset(dataDir);
      expect(everything(answersFrom(data))).toEqual(before);
      const found = await verifyJournal(journalDir);
      expect(found.problems).toEqual([]);
      expect(found.vouched?.seq).toBe(data.last);
      expect(found.notes.at(-1)).toMatch(
        /^Removed by choice on 2027-0[45]-02.*: records \d+ to \d+ in \d+ files\./,
      );
    }
    const after = readdirSync(journalDir).reduce(
      (sum, name) => sum + statSync(join(journalDir, name)).size,
      0,
    );
    expect(after).toBeLessThan(bytes * 0.75);
  });

  it('are in backups as they are here', async () => {
    const to = join(freshFolder(), 'backup.tar.gz');
    await makeBackup({ data: dataDir, to, mailAddresses: false, now: end });
    const folder = freshFolder();
    await restoreBackup({ data: folder, from: to, evenIfBroken: false, evenIfOther: false, now: end + 1 });
    expect(everything(answersFrom(await openDataset(folder)))).toEqual(before);
  });

  it('leave an excerpt that is sealed too: one altered byte of it is found', async () => {
    const [kept = ''] = readdirSync(journalDir).filter((name) => name.endsWith('.kept.ndjson'));
    const path = join(journalDir, kept);
    const content = readFileSync(path);
    writeFileSync(path, content.toString().replace('"kind":"postback"', '"kind":"postbacl"'));
    expect((await verifyJournal(journalDir)).problems).toEqual([
      `${kept}, which holds what stays of removed files, is not what it was when it was made.`,
    ]);
    writeFileSync(path, content);
    expect((await verifyJournal(journalDir)).problems).toEqual([]);
  });

  it('go on being read where their counts are lost, and every screen is told', async () => {
    const now = Date.UTC(2027, 5, 2);
    const [counts = ''] = readdirSync(journalDir).filter((name) => name.endsWith('.counts.ndjson'));
    const path = join(journalDir, counts);
    const content = readFileSync(path);
    const whole = await open(now);
    expect(whole.damages).toEqual([]);
    const all = (await whole.rolledUp()).counts.length;
    await whole.close();
    for (const spoil of [() => rmSync(path), () => writeFileSync(path, content.subarray(0, -20))]) {
      spoil();
      const journal = await open(now);
      expect(journal.damages.map(({ file }) => file)).toEqual([counts.replace('.counts.', '.kept.')]);
      const left = (await journal.rolledUp()).counts.length;
      expect(left).toBeGreaterThan(0);
      expect(left).toBeLessThan(all);
      await journal.close();
      expect((await verifyJournal(journalDir)).problems[0]).toContain(
        `${counts}, which holds what stays of removed files, is `,
      );
    }
    writeFileSync(path, content);
  });
});
