import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Step } from './steps.ts';
import { makeSteps } from './steps.ts';

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
});
afterEach(() => void vi.useRealTimers());

const step = (id: string, records = 1): Step => ({
  id,
  edits: Array.from({ length: records }, (_, i) => ({
    kind: 'link',
    record: `lnk_${id}${i}`,
    before: null,
    after: { id: `lnk_${id}${i}` },
  })),
});
/** A window, as it is after it was loaded. */
const loaded = async (window: string) => {
  const steps = makeSteps(window);
  await steps.load();
  return steps;
};
type Steps = ReturnType<typeof makeSteps>;
const next = (steps: Steps) => [steps.undoable()?.id, steps.redoable()?.id];
const reverse = async (steps: Steps, which: Step | undefined, by: string) => {
  if (which === undefined) throw new Error('There is none.');
  await steps.reversed(which, step(by));
};

describe('the steps of a window', () => {
  it('are undone and done again one after the other, each after a reload too', async () => {
    let steps = await loaded('a');
    await steps.add(step('one'));
    await steps.add(step('two', 333));
    expect(next(steps)).toEqual(['two', undefined]);
    steps = await loaded('a');
    expect(steps.undoable()).toEqual(step('two', 333));
    await reverse(steps, steps.undoable(), 'undo of two');
    steps = await loaded('a');
    expect(next(steps)).toEqual(['one', 'undo of two']);
    await reverse(steps, steps.undoable(), 'undo of one');
    steps = await loaded('a');
    expect(next(steps)).toEqual([undefined, 'undo of one']);
    await reverse(steps, steps.redoable(), 'one again');
    steps = await loaded('a');
    expect(next(steps)).toEqual(['one again', 'undo of two']);
  });

  it('that were undone are forgotten with the next new one, and all of them at once when asked', async () => {
    const steps = await loaded('a');
    await steps.add(step('one'));
    await reverse(steps, steps.undoable(), 'undo of one');
    await steps.add(step('two'));
    expect(next(steps)).toEqual(['two', undefined]);
    expect(next(await loaded('a'))).toEqual(['two', undefined]);
    await steps.clear();
    expect(next(await loaded('a'))).toEqual([undefined, undefined]);
  });

  it('can be undone out of their order: an import, after something else was edited', async () => {
    const steps = await loaded('a');
    await steps.add(step('import', 3));
    await steps.add(step('later'));
    await reverse(steps, steps.undoable('import'), 'undo of import');
    expect(next(await loaded('a'))).toEqual(['later', 'undo of import']);
    expect(steps.undoable('import')).toBeUndefined();
    await expect(steps.reversed(step('import'), step('x'))).rejects.toThrow('not remembered');
  });

  it('belong to it alone, and go when another window finds them a week later', async () => {
    vi.useFakeTimers({ toFake: ['Date'], now: Date.UTC(2026, 9, 1) });
    await (await loaded('a')).add(step('one'));
    expect(next(await loaded('b'))).toEqual([undefined, undefined]);
    vi.setSystemTime(Date.UTC(2026, 9, 7));
    await loaded('b');
    expect(next(await loaded('a'))).toEqual(['one', undefined]);
    vi.setSystemTime(Date.UTC(2026, 9, 9));
    await loaded('b');
    expect(next(await loaded('a'))).toEqual([undefined, undefined]);
  });

  it('are bounded: the oldest go first, and the newest stays however large it is', async () => {
    const steps = await loaded('a');
    for (let i = 0; i < 103; i++) await steps.add(step(`s${i}`));
    expect([steps.undoable('s2'), steps.undoable('s3')?.id]).toEqual([undefined, 's3']);
    await steps.add(step('large', 60_000));
    expect(next(steps)).toEqual(['large', undefined]);
    expect(steps.undoable('s102')).toBeUndefined();
  });

  it('are remembered until the page goes where the browser keeps nothing', async () => {
    vi.spyOn(indexedDB, 'open').mockImplementation(() => {
      throw new DOMException('denied', 'SecurityError');
    });
    const steps = await loaded('a');
    await steps.add(step('one'));
    await reverse(steps, steps.undoable(), 'undo of one');
    expect(next(steps)).toEqual([undefined, 'undo of one']);
  });
});
