import { appendFileSync, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { JournalDraft } from '#core/visits';
import { freshFolder, removeFolder } from '../testing/process.ts';
import { chainName, inOrder, Journal, verifyJournal } from './index.ts';

const hop = (n: number): JournalDraft => ({
  kind: 'postback',
  at: 1_795_442_531_123 + n,
  network: 'net_h',
  via: 'GET',
  query: `txn=${n}&note=${'é"\\n'.repeat(n % 4)}`,
  body: null,
  ip: '127.0.0.1',
});

/** What can happen to a journal that nobody alters. */
const event = fc.oneof(
  {
    weight: 6,
    arbitrary: fc.record({ does: fc.constant('keep' as const), records: fc.integer({ min: 1, max: 6 }) }),
  },
  { weight: 2, arbitrary: fc.record({ does: fc.constant('seal' as const) }) },
  { weight: 1, arbitrary: fc.record({ does: fc.constant('restart' as const) }) },
  {
    weight: 1,
    arbitrary: fc.record({ does: fc.constant('crash' as const), torn: fc.integer({ min: 1, max: 40 }) }),
  },
  { weight: 1, arbitrary: fc.record({ does: fc.constant('day' as const) }) },
);
const history = fc.array(event, { minLength: 4, maxLength: 18 });

/** What somebody does to the files of a journal; each of them takes numbers that say where. */
const tampering = fc.record({
  how: fc.constantFrom(
    'byte',
    'line out',
    'line twice',
    'lines exchanged',
    'file out',
    'cut',
    'chain line out',
    'chain byte',
  ),
  where: fc.nat(),
  which: fc.nat(),
  bit: fc.integer({ min: 0, max: 7 }),
});

const live = async (
  folder: string,
  events: readonly (typeof event extends fc.Arbitrary<infer E> ? E : never)[],
) => {
  let now = Date.UTC(2026, 10, 23, 10);
  let n = 0;
  const open = async () => (await Journal.open(folder, 'ID', { fileBytes: 900, now: () => now })).journal;
  let journal = await open();
  for (const one of events) {
    now += 1000;
    if (one.does === 'keep') for (let i = 0; i < one.records; i++) await journal.keep(hop(++n));
    if (one.does === 'seal') await journal.seal();
    if (one.does === 'day') now += 86_400_000;
    if (one.does === 'restart' || one.does === 'crash') {
      const chain = existsSync(join(folder, chainName))
        ? readFileSync(join(folder, chainName))
        : Buffer.alloc(0);
      await journal.close();
      if (one.does === 'crash') {
        // A crash seals nothing, and tears a line off.
        writeFileSync(join(folder, chainName), chain);
        const last = inOrder(readdirSync(folder)).at(-1);
        if (last) appendFileSync(join(folder, last.name), `{"seq":${n + 1},"kind":"${'x'.repeat(one.torn)}`);
      }
      journal = await open();
    }
  }
  await journal.keep(hop(++n));
  await journal.close();
  return n;
};

/** Alters sealed files; gives false where there is nothing of the kind to alter. */
const tamper = (
  folder: string,
  { how, where, which, bit }: typeof tampering extends fc.Arbitrary<infer T> ? T : never,
): boolean => {
  const names = inOrder(readdirSync(folder))
    .map(({ name }) => name)
    .filter((name) => readFileSync(join(folder, name)).length > 0);
  const name = how.startsWith('chain') ? chainName : (names[which % names.length] ?? '');
  const path = join(folder, name);
  const content = readFileSync(path);
  const lines = content.toString('utf8').split('\n').slice(0, -1);
  const at = where % lines.length;
  const write = (changed: readonly string[]) =>
    writeFileSync(path, changed.map((line) => `${line}\n`).join(''));
  switch (how) {
    case 'byte':
    case 'chain byte': {
      const altered = Buffer.from(content);
      const place = where % content.length;
      altered[place] = (altered[place] ?? 0) ^ (1 << bit);
      writeFileSync(path, altered);
      return true;
    }
    case 'line out':
      write(lines.filter((_, i) => i !== at));
      return true;
    case 'chain line out':
      // Without the last lines the chain is an older one, which only a seal kept elsewhere tells.
      if (at >= lines.length - 1) return false;
      write(lines.filter((_, i) => i !== at));
      return true;
    case 'line twice':
      write(lines.flatMap((line, i) => (i === at ? [line, line] : [line])));
      return true;
    case 'lines exchanged': {
      if (lines.length < 2) return false;
      const other = (at + 1) % lines.length;
      write(
        lines.map((line, i) => (i === at ? (lines[other] ?? '') : i === other ? (lines[at] ?? '') : line)),
      );
      return true;
    }
    case 'file out':
      rmSync(path);
      return true;
    default:
      writeFileSync(path, content.subarray(0, where % content.length));
      return true;
  }
};

it(
  'whatever happens to a journal is no tampering, and every tampering with what is sealed is found',
  { timeout: 240_000 },
  () =>
    fc.assert(
      fc.asyncProperty(history, tampering, async (events, how) => {
        const folder = freshFolder();
        try {
          const records = await live(folder, events);
          const newest = await verifyJournal(folder);
          expect(newest.problems).toEqual([]);
          expect(newest).toMatchObject({ records, unsealed: 0, vouched: { seq: records } });
          if (!tamper(folder, how)) return;
          const { problems } = await verifyJournal(folder, newest.newest);
          expect([how.how, problems.length > 0]).toEqual([how.how, true]);
        } finally {
          removeFolder(folder);
        }
      }),
      { numRuns: 300 },
    ),
);
