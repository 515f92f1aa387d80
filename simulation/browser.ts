import type { Database, Finding, ServerState, Storage, Sync, SyncServer } from '../app/sync/index.ts';
import { makeRecordStore, makeSync, openStorage } from '../app/sync/index.ts';
import type { Row, Waiting } from '../app/sync/index.ts';

/** What a browser's disk does with the next writes. */
export type Disk = 'works' | 'is full' | 'dies before' | 'dies after';

const never = <T>(): Promise<T> => new Promise(() => undefined);

/** A storage whose writes fail, or never end, when they are told to. */
const onDisk = (storage: Storage, disk: () => Disk, died: () => void, isDead: () => boolean): Storage => {
  const wrap = (db: Database): Database =>
    new Proxy(db, {
      get: (target, name) => {
        if (name !== 'transaction') return Reflect.get(target, name, target) as unknown;
        return (stores: never, mode: IDBTransactionMode | undefined) => {
          const tx = target.transaction(stores, mode);
          const state = mode === 'readwrite' ? disk() : 'works';
          if (state === 'works') return tx;
          return new Proxy(tx, {
            get: (inner, field) => {
              if (field === 'done') {
                if (state === 'dies after') return inner.done.then(died).then(never);
                inner.done.catch(() => undefined);
                if (state === 'dies before') died();
                try {
                  inner.abort();
                } catch {
                  // it has ended already
                }
                return state === 'is full'
                  ? Promise.reject(new DOMException('No room.', 'QuotaExceededError'))
                  : never();
              }
              const value: unknown = Reflect.get(inner, field, inner);
              return typeof value === 'function' ? (value as () => unknown).bind(inner) : value;
            },
          });
        };
      },
    });
  return {
    ...storage,
    database: async () => (isDead() ? never<Database>() : wrap(await storage.database())),
  };
};

let databases = 0;

/** One person's browser: the real module on a database of its own, with a clock that may be wrong. */
export class SimulatedBrowser {
  readonly name: string;
  readonly #database = `world-${(databases += 1)}`;
  readonly #clock: number;
  readonly #serverOf: (browser: SimulatedBrowser) => SyncServer;
  readonly #makeId: () => string;
  #sync: Sync | undefined;
  #storage: Storage | undefined;
  rows = new Map<string, Row>();
  waiting = new Map<string, Waiting>();
  disk: Disk = 'works';
  state: ServerState = 'asking';
  readonly findings: Finding[] = [];
  /** Rises with each start; what an earlier one left undone never ends. */
  life = 0;

  constructor(
    name: string,
    clock: number,
    serverOf: (browser: SimulatedBrowser) => SyncServer,
    makeId: () => string,
  ) {
    this.name = name;
    this.#clock = clock;
    this.#serverOf = serverOf;
    this.#makeId = makeId;
  }

  get sync(): Sync {
    if (!this.#sync) throw new Error(`${this.name} is closed.`);
    return this.#sync;
  }
  get isOpen(): boolean {
    return this.#sync !== undefined;
  }

  async open(): Promise<void> {
    this.disk = 'works';
    this.rows = new Map();
    this.waiting = new Map();
    this.#storage = openStorage(this.#database);
    const { life } = this;
    const store = makeRecordStore({
      storage: onDisk(
        this.#storage,
        () => this.disk,
        () => void this.kill(),
        () => this.life !== life,
      ),
      rows: this.rows,
      waiting: this.waiting,
    });
    const server = this.#serverOf(this);
    const sync = makeSync({
      store,
      server,
      lock: (_name, work) => work(),
      stays: () => false,
      changeId: this.#makeId,
      now: () => this.#clock,
      by: () => this.name,
      onState: (state) => (this.state = state),
      onFinding: (finding) => this.findings.push(finding),
      onNotKept: () => undefined,
    });
    await sync.load();
    this.#sync = sync;
  }

  /** Ends it as a crash does: what is under way never ends. */
  async kill(): Promise<void> {
    this.#sync = undefined;
    this.life += 1;
    const db = await this.#storage?.database();
    db?.close();
  }

  /** Somebody clears the site's data while it is open. */
  async clearStorage(): Promise<void> {
    await new Promise<void>((resolve, reject) => {
      const request = indexedDB.deleteDatabase(this.#database);
      request.onsuccess = () => resolve();
      request.onerror = () => reject(new Error('The database could not be deleted.'));
    });
  }
}
