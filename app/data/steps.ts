import type { DBSchema } from 'idb';
import { openDB } from 'idb';
import type { RecordKind } from '#core/catalogue';

/** What a step did to one record. */
export interface StepEdit {
  readonly kind: RecordKind;
  readonly record: string;
  readonly before: object | null;
  readonly after: object | null;
}

/** What a person did in this window at once, the newest edit first: the order in which it is taken back. */
export interface Step {
  readonly id: string;
  readonly edits: readonly StepEdit[];
}

interface StoredStep extends Step {
  readonly window: string;
  /** Milliseconds since 1970 UTC. */
  readonly at: number;
  readonly state: 'done' | 'undone';
}

interface Schema extends DBSchema {
  steps: { key: number; value: StoredStep; indexes: { window: string } };
}

/** Most steps a window remembers, and most edits in all of them; the newest step stays, however large it is. */
const mostSteps = 100;
const mostEdits = 50_000;
/** For how long steps of other windows stay: most of these do not come again. */
const daysKept = 7;

const open = () =>
  openDB<Schema>('fernhop-steps', 1, {
    upgrade: (db) =>
      void db.createObjectStore('steps', { autoIncrement: true }).createIndex('window', 'window'),
  });

/** A name of this window that a reload keeps. */
const windowName = (): string => {
  const found = sessionStorage.getItem('fernhop-window') ?? crypto.randomUUID();
  sessionStorage.setItem('fernhop-window', found);
  return found;
};

/**
 * The steps of this window: what can be undone, what of it can be done again. They are kept beside the catalogue, so that a reload
 * forgets none. A browser that keeps nothing has them until the page goes.
 *
 * @param window the window they belong to
 */
export const makeSteps = (window: string = windowName()) => {
  const done: Step[] = [];
  const undone: Step[] = [];
  const keys = new Map<string, number>();
  const database = Promise.resolve()
    .then(open)
    .catch(() => undefined);

  /** Works on what is kept; the steps in memory hold where that fails. */
  const kept = async (work: (db: Awaited<ReturnType<typeof open>>) => Promise<void>): Promise<void> => {
    const db = await database;
    if (db) await work(db).catch(() => undefined);
  };
  const drop = (steps: readonly Step[]): Promise<void> =>
    kept(async (db) => {
      const tx = db.transaction('steps', 'readwrite');
      for (const { id } of steps) {
        const key = keys.get(id);
        keys.delete(id);
        if (key !== undefined) void tx.store.delete(key);
      }
      await tx.done;
    });
  const put = (step: Step, state: StoredStep['state']): Promise<void> =>
    kept(async (db) => {
      keys.set(step.id, await db.put('steps', { ...step, window, at: Date.now(), state }));
    });
  /** Lets the oldest go where there are too many. */
  const bound = (): Step[] => {
    const gone: Step[] = [];
    const size = () => done.reduce((sum, { edits }) => sum + edits.length, 0);
    while (done.length > 1 && (done.length > mostSteps || size() > mostEdits))
      gone.push(...done.splice(0, 1));
    return gone;
  };
  const takeFrom = (list: Step[], step: Step): boolean => {
    const at = list.indexOf(step);
    if (at >= 0) list.splice(at, 1);
    return at >= 0;
  };

  /** Reads what this window had before it was loaded again, and lets go what windows left that are gone. */
  const load = (): Promise<void> =>
    kept(async (db) => {
      const oldest = Date.now() - daysKept * 86_400_000;
      let cursor = await db.transaction('steps', 'readwrite').store.openCursor();
      while (cursor) {
        const { window: whose, at, state, id, edits } = cursor.value;
        if (whose === window) {
          keys.set(id, cursor.key);
          (state === 'done' ? done : undone).push({ id, edits });
        } else if (at < oldest) void cursor.delete();
        cursor = await cursor.continue();
      }
    });

  return {
    load,
    /** The step that is undone next, or the one of an ID; undefined where it is not remembered. */
    undoable: (id?: string): Step | undefined =>
      id === undefined ? done.at(-1) : done.find((step) => step.id === id),
    /** The step that is done again next. */
    redoable: (): Step | undefined => undone.at(-1),
    /** Remembers a new step; what was undone before it cannot be done again. */
    add: async (step: Step): Promise<void> => {
      done.push(step);
      await drop([...undone.splice(0), ...bound()]);
      await put(step, 'done');
    },
    /**
     * A step was undone, or done again.
     *
     * @param step what was reversed
     * @param by what that did, to reverse it in turn
     */
    reversed: async (step: Step, by: Step): Promise<void> => {
      const wasUndone = takeFrom(undone, step);
      if (!wasUndone && !takeFrom(done, step)) throw new Error('This step is not remembered.');
      (wasUndone ? done : undone).push(by);
      await drop([step]);
      await put(by, wasUndone ? 'done' : 'undone');
    },
    /** Forgets all of them, as when the records become those of another server. */
    clear: (): Promise<void> => drop([...done.splice(0), ...undone.splice(0)]),
  };
};
