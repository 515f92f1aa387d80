import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  cpSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { describe, expect, it, vi } from 'vitest';
import type { JournalDraft } from '#core/visits';
import { freshFolder } from '../testing/process.ts';
import { chainName, inOrder, Journal, verifyJournal } from './index.ts';

const postback = (n: number, more = ''): JournalDraft => ({
  kind: 'postback',
  at: Date.UTC(2026, 10, 23, 9, 0, n),
  network: 'net_h',
  via: 'GET',
  query: `txn=${n}&amount=12.50${more}`,
  body: null,
  ip: '127.0.0.1',
});
const open = async (at: string, options = {}) => (await Journal.open(at, 'IDENTITY', options)).journal;
const files = (at: string) => inOrder(readdirSync(at)).map(({ name }) => name);

/** A journal of four files with 40 records, sealed; the last file twice. Gives its folder, its seals and its files. */
const sealedJournal = async (): Promise<{ at: string; first: string; newest: string; names: string[] }> => {
  const at = freshFolder();
  let now = Date.UTC(2026, 10, 23, 10);
  const journal = await open(at, { fileBytes: 1300, now: () => now });
  let first = '';
  for (let n = 1; n <= 40; n++) {
    await journal.keep(postback(n));
    now += 60_000;
    if (n === 20) first = (await journal.seal())?.hash ?? '';
    if (n === 37) await journal.seal();
  }
  await journal.close();
  const newest = journal.newestSeal?.hash ?? '';
  const names = files(at);
  expect(names.length).toBeGreaterThanOrEqual(4);
  return { at, first, newest, names };
};

/** Replaces a piece of a file's text by another of whatever length. */
const edit = (path: string, from: string, to: string): void => {
  const before = readFileSync(path, 'utf8');
  expect(before).toContain(from);
  writeFileSync(path, before.replace(from, to));
};

describe('a journal as it was sealed', () => {
  it('is vouched for to its end, by its own chain and by a seal kept elsewhere', async () => {
    const { at, first, newest, names } = await sealedJournal();
    const found = await verifyJournal(at, newest);
    expect(found).toMatchObject({ problems: [], notes: [], records: 40, files: names.length, unsealed: 0 });
    expect(found.vouched?.seq).toBe(40);
    expect(found.given).toMatchObject({ found: true, seq: 40 });
    expect((await verifyJournal(at, first)).given).toMatchObject({ found: true, seq: 20 });
    expect((await verifyJournal(at, first.slice(0, 16))).given?.found).toBe(true);
  });

  it('has the sums that sha256sum of the coreutils finds, of files and of the chain’s lines', async () => {
    const { at, newest } = await sealedJournal();
    const sum = (command: string) =>
      execFileSync('bash', ['-c', `${command} | sha256sum`], { cwd: at, encoding: 'utf8' }).split(' ')[0];
    const lines = readFileSync(join(at, chainName), 'utf8').trimEnd().split('\n');
    for (const [i, line] of lines.entries()) {
      const seal = JSON.parse(line) as { file: string; bytes: number; sha256: string; before: string };
      expect(sum(`head -c ${seal.bytes} ${seal.file}`)).toBe(seal.sha256);
      expect(sum(i === 0 ? 'printf IDENTITY' : `sed -n ${i}p ${chainName} | tr -d '\\n'`)).toBe(seal.before);
    }
    expect(sum(`tail -n 1 ${chainName} | tr -d '\\n'`)).toBe(newest);
  });

  it('is sealed by itself while it is written to', async () => {
    const at = freshFolder();
    const journal = await open(at, { sealMs: 50 });
    await journal.keep(postback(1));
    await vi.waitFor(() => expect(journal.newestSeal?.seq).toBe(1), { timeout: 5000 });
    await journal.keep(postback(2));
    await vi.waitFor(() => expect(journal.newestSeal?.seq).toBe(2), { timeout: 5000 });
    expect(await verifyJournal(at)).toMatchObject({ problems: [], unsealed: 0, vouched: { seq: 2 } });
    // Where nothing came, nothing is added.
    const { length } = readFileSync(join(at, chainName));
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(readFileSync(join(at, chainName)).length).toBe(length);
    await journal.close();
  });

  it('says what is not sealed yet, and goes on with its chain after a restart', async () => {
    const { at, newest } = await sealedJournal();
    const journal = await open(at, { fileBytes: 1300 });
    await journal.keep(postback(41));
    expect(await verifyJournal(at)).toMatchObject({ problems: [], unsealed: 1, vouched: { seq: 40 } });
    await journal.seal();
    expect(await verifyJournal(at, newest)).toMatchObject({
      problems: [],
      unsealed: 0,
      vouched: { seq: 41 },
    });
    await journal.close();
  });

  it('a torn tail, of a record or of a seal, is no tampering', async () => {
    const { at, names } = await sealedJournal();
    appendFileSync(join(at, names.at(-1) ?? ''), '{"seq":41,"kind":"postb');
    appendFileSync(join(at, chainName), '{"kind":"seal","at":17');
    const found = await verifyJournal(at);
    expect(found.problems).toEqual([]);
    expect(found.vouched?.seq).toBe(40);
    expect(found.notes.join(' ')).toMatch(/a seal was being written.*a crash tore it off/s);
    // The next start cuts both off and goes on.
    const journal = await open(at);
    await journal.keep(postback(41));
    await journal.close();
    expect(await verifyJournal(at)).toMatchObject({ problems: [], notes: [], vouched: { seq: 41 } });
  });
});

describe('what somebody changed', () => {
  it('one byte of a sealed part: it is told between which seals, and which line', async () => {
    const { at, names } = await sealedJournal();
    edit(join(at, names[1] ?? ''), 'amount=12.50', 'amount=92.50');
    const { problems, vouched } = await verifyJournal(at);
    expect(problems).toHaveLength(1);
    expect(problems[0]).toContain(`${names[1] ?? ''} was altered within bytes 0 to `);
    expect(problems[0]).toContain('a value within one was altered');
    expect(vouched?.seq).toBe(Number(names[1]?.slice(0, 12)) - 1);
  });

  it('a byte of the last file: all before the earlier seal of that file is vouched for', async () => {
    const { at, names } = await sealedJournal();
    edit(join(at, names.at(-1) ?? ''), 'txn=39&', 'txn=93&');
    const { problems, vouched } = await verifyJournal(at);
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatch(/records 38 to 40/);
    expect(vouched?.seq).toBe(37);
  });

  it('each single byte of the whole journal', async () => {
    const { at, names } = await sealedJournal();
    const name = names[2] ?? '';
    const content = readFileSync(join(at, name));
    for (let i = 0; i < content.length; i += 7) {
      const altered = Buffer.from(content);
      altered[i] = (altered[i] ?? 0) ^ 1;
      writeFileSync(join(at, name), altered);
      const { problems } = await verifyJournal(at);
      expect([i, problems.length > 0, problems.every((words) => words.startsWith(name))]).toEqual([
        i,
        true,
        true,
      ]);
    }
  });

  it('a record taken out: it is told which', async () => {
    const { at, names } = await sealedJournal();
    const path = join(at, names[1] ?? '');
    const lines = readFileSync(path, 'utf8').split('\n');
    const [gone = ''] = lines.splice(3, 1);
    writeFileSync(path, lines.join('\n'));
    const { seq } = JSON.parse(gone) as { seq: number };
    expect((await verifyJournal(at)).problems.join(' ')).toContain(`record ${seq} missing before line 4`);
  });

  it('two files exchanged', async () => {
    const { at, names } = await sealedJournal();
    const [a = '', b = ''] = names;
    renameSync(join(at, a), join(at, 'aside'));
    renameSync(join(at, b), join(at, a));
    renameSync(join(at, 'aside'), join(at, b));
    const { problems, vouched } = await verifyJournal(at);
    expect(problems).toContain(`${a} holds what was sealed as ${b}: the files were exchanged.`);
    expect(problems).toContain(`${b} holds what was sealed as ${a}: the files were exchanged.`);
    expect(vouched).toBeUndefined();
  });

  it('a file taken away, one cut short, and one slipped in', async () => {
    const { at, names } = await sealedJournal();
    const copy = freshFolder();
    cpSync(at, copy, { recursive: true });
    rmSync(join(copy, names[1] ?? ''));
    expect((await verifyJournal(copy)).problems.join(' ')).toContain(
      `${names[1] ?? ''} is missing (records `,
    );

    const cut = freshFolder();
    cpSync(at, cut, { recursive: true });
    truncateSync(join(cut, names.at(-1) ?? ''), 100);
    expect((await verifyJournal(cut)).problems.join(' ')).toContain(
      `${names.at(-1) ?? ''} was cut: it has 100 bytes`,
    );

    const more = freshFolder();
    cpSync(at, more, { recursive: true });
    copyFileSync(join(more, names[1] ?? ''), join(more, (names[1] ?? '').replace('.ndjson', '.1.ndjson')));
    expect((await verifyJournal(more)).problems.join(' ')).toContain(
      'was never sealed, and files after it were',
    );
  });

  it('a line of the chain altered, taken out, or put in another place', async () => {
    const { at } = await sealedJournal();
    const path = join(at, chainName);
    const lines = readFileSync(path, 'utf8').trimEnd().split('\n');
    const wrong = async (changed: readonly string[]) => {
      writeFileSync(path, `${changed.join('\n')}\n`);
      return (await verifyJournal(at)).problems.join(' ');
    };
    const [one = '', two = '', ...rest] = lines;
    expect(await wrong([one, two.replace('"at":1', '"at":2'), ...rest])).toContain(
      'chain.ndjson, line 3: it does not follow',
    );
    expect(await wrong([one, ...rest])).toContain('chain.ndjson, line 2: it does not follow');
    expect(await wrong([two, one, ...rest])).toContain('chain.ndjson, line 1: it belongs to another journal');
    expect(await wrong([one, 'nonsense', ...rest])).toContain('chain.ndjson, line 2: it cannot be read');
    expect(await wrong(lines)).toBe('');
  });

  it('an edit with the whole chain made anew is found by a seal that was kept elsewhere, and only by it', async () => {
    const { at, first, newest, names } = await sealedJournal();
    edit(join(at, names[1] ?? ''), 'amount=12.50', 'amount=99.99');
    rmSync(join(at, chainName));
    // The forger has the program itself.
    await (await open(at, { fileBytes: 1300 })).close();
    expect((await verifyJournal(at)).problems).toEqual([]);
    for (const kept of [first, newest]) {
      const { problems, given } = await verifyJournal(at, kept);
      expect(given?.found).toBe(false);
      expect(problems).toHaveLength(1);
      expect(problems[0]).toContain('the chain was made anew since that seal was kept');
    }
  });
});

describe('a server on a damaged journal', () => {
  it('alters nothing of it, shows what can be read, tells what is lost, and goes on behind it', async () => {
    const { at, names } = await sealedJournal();
    const name = names[1] ?? '';
    edit(join(at, name), '"kind":"postback"', '"kind"?"postback"');
    rmSync(join(at, names[2] ?? ''));
    const before = readFileSync(join(at, name));
    const logged: string[] = [];
    const journal = await open(at, { log: (message: string) => logged.push(message) });
    expect(journal.damages.map(({ file }) => file)).toEqual([name, names[2]]);
    expect(logged).toEqual([
      'a journal file is not what was sealed',
      'a journal file is not what was sealed',
    ]);
    await journal.keep(postback(41));
    const shown = (await text(journal.read(0)))
      .trimEnd()
      .split('\n')
      .map((line) => JSON.parse(line) as { seq: number; kind: string; count?: number; why?: string });
    expect(readFileSync(join(at, name))).toEqual(before);
    // Every number up to the last is there, or counted in a record of what is lost.
    expect(shown.reduce((sum, { kind, count = 1 }) => sum + (kind === 'lost' ? count : 1), 0)).toBe(41);
    expect(shown.filter(({ kind }) => kind === 'lost').map(({ why }) => why)).toEqual(['damage', 'damage']);
    expect(shown.at(-1)?.seq).toBe(41);
    await journal.close();
    const { problems } = await verifyJournal(at);
    expect(problems).toHaveLength(2);
  });
});
