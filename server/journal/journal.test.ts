import { appendFileSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { describe, expect, it } from 'vitest';
import { givenBackKinds, isGivenBackKind } from '#core/visits';
import type { GivenBackRecord, JournalDraft, JournalRecord } from '#core/visits';
import { freshFolder } from '../testing/process.ts';
import { GivenBack, inOrder, Journal } from './index.ts';

const folder = freshFolder;
const postback = (n: number): JournalDraft => ({
  kind: 'postback',
  at: 1_795_442_531_123,
  network: 'net_h',
  via: 'GET',
  query: `txn=${n}`,
  body: null,
  ip: '127.0.0.1',
});
const open = async (at: string, options = {}) => (await Journal.open(at, 'IDENTITY', options)).journal;
const all = async (journal: Journal, after = 0): Promise<JournalRecord[]> =>
  (await text(journal.read(after)))
    .split('\n')
    .filter(Boolean)
    .map((line): JournalRecord => JSON.parse(line) as JournalRecord);
const queries = (records: readonly JournalRecord[]) =>
  records.map((r) => (r.kind === 'postback' ? r.query : r.kind));

describe('the journal', () => {
  it('numbers records without a gap, across restarts', async () => {
    const at = folder();
    const first = await open(at);
    await Promise.all([first.keep(postback(1)), first.keep(postback(2))]);
    await first.close();
    const second = await open(at);
    expect(second.identity).toBe('IDENTITY');
    await second.keep(postback(3));
    expect((await all(second)).map((r) => r.seq)).toEqual([1, 2, 3]);
    expect(queries(await all(second, 2))).toEqual(['txn=3']);
    await second.close();
  });

  it('shows nothing before it is synced, and everything kept is synced', async () => {
    const journal = await open(folder());
    const seen: number[] = [];
    journal.listen(({ last }) => seen.push(last));
    journal.append(postback(1));
    expect(journal.seq).toBe(0);
    expect(await all(journal)).toEqual([]);
    await journal.keep(postback(2));
    expect(journal.seq).toBe(2);
    expect(seen.at(-1)).toBe(2);
    await journal.close();
  });

  it('begins a new file when one is full and on a new day, and reads across them from any place', async () => {
    const at = folder();
    let now = Date.parse('2026-11-23T23:59:00Z');
    const journal = await open(at, { fileBytes: 300, now: () => now });
    for (let n = 1; n <= 5; n++) await journal.keep(postback(n));
    now += 120_000;
    await journal.keep(postback(6));
    const files = inOrder(readdirSync(at)).map(({ name }) => name);
    expect(files.length).toBeGreaterThanOrEqual(4);
    expect(files.at(-1)).toContain('2026-11-24');
    for (let after = 0; after <= 6; after++)
      expect((await all(journal, after)).map((r) => r.seq)).toEqual([1, 2, 3, 4, 5, 6].slice(after));
    await journal.close();
  });

  it('cuts off a torn last line and goes on behind it', async () => {
    const at = folder();
    const first = await open(at);
    await first.keep(postback(1));
    await first.close();
    const [name = ''] = inOrder(readdirSync(at)).map(({ name: file }) => file);
    appendFileSync(join(at, name), '{"seq":2,"kind":"postback","at":17');
    const cuts: object[] = [];
    const second = await open(at, { log: (_: string, detail: object) => cuts.push(detail) });
    expect(cuts).toEqual([{ name, bytes: 34 }]);
    await second.keep(postback(9));
    expect(queries(await all(second))).toEqual(['txn=1', 'txn=9']);
    await second.close();
  });

  it('takes the later file’s word where two files hold the same seq', async () => {
    const at = folder();
    const line = (seq: number, n: number) => `${JSON.stringify({ seq, ...postback(n) })}\n`;
    writeFileSync(join(at, '000000000001-2026-11-23.ndjson'), line(1, 1) + line(2, 2) + line(3, 3));
    writeFileSync(join(at, '000000000003-2026-11-23.ndjson'), line(3, 30));
    const journal = await open(at);
    expect(queries(await all(journal))).toEqual(['txn=1', 'txn=2', 'txn=30']);
    await journal.close();
  });

  it('holds no more bytes than it may while the disk is slow, however many records those are', async () => {
    const journal = await open(folder(), { mostBytes: 100_000 });
    const long = { ...postback(1), body: 'x'.repeat(10_000) };
    const kept = await Promise.allSettled(Array.from({ length: 200 }, () => journal.keep(long)));
    const refused = kept.filter(({ status }) => status === 'rejected').length;
    expect(refused).toBeGreaterThan(0);
    // What was refused is not written, and what was not is.
    expect(await all(journal)).toHaveLength(200 - refused);
    await expect(journal.keep(long)).resolves.toBeUndefined();
    await journal.close();
  });

  it('counts what it had to drop', async () => {
    const journal = await open(folder(), { mostWaiting: 3 });
    for (let n = 1; n <= 5; n++) journal.append(postback(n));
    await new Promise((resolve) => setTimeout(resolve, 150));
    const records = await all(journal);
    expect(queries(records)).toEqual(['txn=1', 'txn=2', 'txn=3', 'lost']);
    expect(records[3]).toMatchObject({ seq: 4, count: 2 });
    await journal.close();
  });

  it('writes what a failing disk refused first, and acknowledges nothing before it is there', async () => {
    const at = folder();
    const away = `${at}-away`;
    const journal = await open(at, { fileBytes: 1 });
    await journal.keep(postback(1));
    renameSync(at, away);
    await expect(journal.keep(postback(2))).rejects.toThrow('ENOENT');
    journal.append(postback(3));
    await expect(journal.keep(postback(4))).rejects.toThrow('ENOENT');
    expect(journal.failure?.message).toContain('ENOENT');
    renameSync(away, at);
    await journal.keep(postback(5));
    const records = await all(journal);
    expect(queries(records)).toEqual(['txn=1', 'txn=2', 'txn=3', 'txn=4', 'txn=5']);
    expect(records.map((r) => r.seq)).toEqual([1, 2, 3, 4, 5]);
    expect(journal.failure).toBeUndefined();
    await journal.close();
  });

  it('holds more than it has room for, in any script', async () => {
    const journal = await open(folder());
    const query = 'é€😀'.repeat(60_000);
    await Promise.all([1, 2, 3].map(() => journal.keep({ ...postback(1), query } as JournalDraft)));
    expect(queries(await all(journal))).toEqual([query, query, query]);
    await journal.close();
  });

  it('keeps text of any kind on one line', async () => {
    const at = folder();
    const journal = await open(at);
    await journal.keep({ ...postback(1), query: 'a=\u2028"\n\\é{}' } as JournalDraft);
    await journal.close();
    const [name = ''] = inOrder(readdirSync(at)).map(({ name: file }) => file);
    expect(readFileSync(join(at, name), 'utf8').split('\n')).toHaveLength(2);
    const again = await open(at);
    expect(queries(await all(again))).toEqual(['a=\u2028"\n\\é{}']);
    await again.close();
  });
});

describe('records that a browser gives back', () => {
  const lost = (n: number): GivenBackRecord => ({ ...postback(n), seq: 40 + n }) as GivenBackRecord;

  it('are taken once, at their own time, whoever gives them back and after a restart too', async () => {
    const at = folder();
    const journal = await open(at);
    await journal.keep(postback(0));
    const givenBack = new GivenBack(journal);
    const [first, second] = await Promise.all([
      givenBack.take([lost(1), lost(2)]),
      givenBack.take([lost(2), lost(3)]),
    ]);
    expect([first, second]).toEqual([
      { taken: 2, known: 0 },
      { taken: 1, known: 1 },
    ]);
    await journal.close();

    const restarted = await open(at);
    expect(await new GivenBack(restarted).take([lost(1), lost(4)])).toEqual({ taken: 1, known: 1 });
    const records = await all(restarted);
    expect(queries(records)).toEqual(['txn=0', 'txn=1', 'txn=2', 'txn=3', 'txn=4']);
    expect(records.map(({ seq, givenBack: was }) => [seq, was?.seq])).toEqual([
      [1, undefined],
      [2, 41],
      [3, 42],
      [4, 43],
      [5, 44],
    ]);
    expect(records.every(({ at: time }) => time === postback(0).at)).toBe(true);
    await restarted.close();
  });

  it('are what visitors and networks sent: nobody writes changes or the server’s own audits', () => {
    const base = { seq: 1, at: 0 };
    const audit: JournalRecord = { ...base, kind: 'audit', event: 'export', until: 0, count: 1, detail: 'x' };
    expect([lost(1), audit].map(isGivenBackKind)).toEqual([true, false]);
    expect(givenBackKinds).not.toContain('change');
  });

  it('are known again when they are lost a second time and come back under another number', async () => {
    const journal = await open(folder());
    const givenBack = new GivenBack(journal);
    await givenBack.take([lost(1)]);
    const [again] = await all(journal);
    if (!again) throw new Error('It was taken.');
    expect(await givenBack.take([{ ...again, seq: 99 } as GivenBackRecord])).toEqual({ taken: 0, known: 1 });
    await journal.close();
  });

  it('are refused while the disk takes nothing, and are not taken for known then', async () => {
    const journal = await open(folder(), { mostBytes: 0 });
    const givenBack = new GivenBack(journal);
    await expect(givenBack.take([lost(1)])).rejects.toThrow('takes nothing more');
    await expect(givenBack.take([lost(1)])).rejects.toThrow('takes nothing more');
    await journal.close();
  });
});
