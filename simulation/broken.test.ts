import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import type * as batches from '../app/sync/batches.ts';
import type * as entries from '../app/sync/entries.ts';
import type * as recordStore from '../app/sync/recordStore.ts';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

type Entries = typeof entries;
type Batches = typeof batches;
type Records = typeof recordStore;

/** How many schedules may go by until a broken law is noticed. */
const most = 300;

beforeEach(() => {
  // The browsers of the tests before are gone.
  globalThis.indexedDB = new IDBFactory();
  vi.resetModules();
});
afterEach(() => {
  vi.doUnmock('../app/sync/entries.ts');
  vi.doUnmock('../app/sync/batches.ts');
  vi.doUnmock('../app/sync/recordStore.ts');
});

/** The first thing that goes wrong with the module as it is mocked by now; undefined where nothing does. */
const firstWrong = async (): Promise<string | undefined> => {
  const { runSchedule } = await import('./schedule.ts');
  for (let seed = 1; seed <= most; seed++) {
    const wrong = await runSchedule(seed);
    if (wrong !== undefined) return wrong;
  }
  return undefined;
};

const breakEntries = (broken: (whole: Entries) => Partial<Entries>) =>
  vi.doMock('../app/sync/entries.ts', async (load) => {
    const whole = await load<Entries>();
    return { ...whole, ...broken(whole) };
  });

it('nothing is found in a module that is whole', async () => {
  const { runSchedule } = await import('./schedule.ts');
  for (let seed = 1; seed <= 60; seed++) expect(await runSchedule(seed)).toBeUndefined();
});

describe('a module that breaks a law is found', () => {
  it('where news takes the place of an edit that waits', async () => {
    breakEntries(({ rowOf }) => ({
      afterNews: (theirs) => ({ record: theirs.record, row: rowOf(theirs) }),
    }));
    expect(await firstWrong()).toMatch(/said to be saved, and nowhere/);
  });

  it('where a form that stood open writes over what others changed meanwhile', async () => {
    breakEntries(({ afterEdit }) => ({
      afterEdit: ({ began: _, ...edit }, ...rest) => afterEdit(edit, ...rest),
    }));
    expect(await firstWrong()).toMatch(/said to be saved, and nowhere/);
  });

  it('where a server that was set back is believed in everything', async () => {
    breakEntries(({ rowOf }) => ({
      afterComparison: ({ record }, _waiting, theirs) =>
        theirs ? { record, row: rowOf(theirs) } : { record, row: null },
    }));
    expect(await firstWrong()).toMatch(/said to be saved, and nowhere/);
  });

  it('where one’s own version goes on top of theirs unasked', async () => {
    breakEntries(({ afterAnswer }) => ({
      afterAnswer: (sent, now, row, outcome, ...rest) => {
        if (!('refusal' in outcome) || !outcome.theirs) return afterAnswer(sent, now, row, outcome, ...rest);
        const { value } = outcome.theirs;
        return afterAnswer(sent, { ...now, from: value }, row, outcome, true, rest[1]);
      },
    }));
    expect(await firstWrong()).toMatch(/said to be saved, and nowhere/);
  });

  it('where what may have arrived is not sent again before what is newer', async () => {
    vi.doMock('../app/sync/batches.ts', async (load) => ({
      ...(await load<Batches>()),
      toSend: ({ change }: Parameters<Batches['toSend']>[0]) => change,
    }));
    expect(await firstWrong()).toMatch(/said to be saved, and nowhere|they differ/);
  });

  it('where it is said to be saved before it is on the disk', async () => {
    vi.doMock('../app/sync/recordStore.ts', async (load) => {
      const { makeRecordStore } = await load<Records>();
      return {
        makeRecordStore: (parts: Parameters<Records['makeRecordStore']>[0]) => {
          const store = makeRecordStore(parts);
          const write: typeof store.write = (...asked) => store.write(...asked).catch(() => undefined);
          return { ...store, write };
        },
      };
    });
    expect(await firstWrong()).toMatch(/said to be saved, and nowhere/);
  });
});
