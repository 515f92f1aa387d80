import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import type { PlaceScript } from './placeScript.ts';

export interface ScriptsParts {
  readonly dataDir: string;
  readonly port: number;
  /** Number of the newest change of the catalogue. */
  readonly version: () => number;
  readonly now: () => number;
  readonly log: (message: string, detail: object) => void;
}

/** Links open and close by the hour, so that a script is no older, in milliseconds. */
const oldest = 60 * 60_000;
/** Many changes in a row make one script, in milliseconds. */
const soonest = 2000;

interface Made {
  readonly version: number;
  readonly at: number;
  readonly scripts: ReadonlyMap<string, PlaceScript>;
}

/** Keeps the script of each link domain, and makes it anew in a thread of its own once links have changed. */
export class Scripts {
  readonly #parts: ScriptsParts;
  #made: Made | undefined;
  #making: Promise<Made> | undefined;
  #worker: Worker | undefined;

  constructor(parts: ScriptsParts) {
    this.#parts = parts;
  }

  #isNewest({ version, at }: Made): boolean {
    return version === this.#parts.version() && this.#parts.now() - at < oldest;
  }

  #make(): Promise<Made> {
    this.#making ??= this.#inWorker().finally(() => {
      this.#making = undefined;
      this.#worker = undefined;
    });
    return this.#making;
  }

  async #inWorker(): Promise<Made> {
    const { dataDir, port, version, now, log } = this.#parts;
    const begun = { version: version(), at: now() };
    try {
      this.#worker = new Worker(builtFile('script.js'), { workerData: { dataDir, port, now: begun.at } });
      const [scripts] = (await once(this.#worker, 'message')) as [Map<string, PlaceScript>]; // an error of the worker rejects this
      await this.#worker.terminate();
      return (this.#made = { ...begun, scripts });
    } catch (error) {
      log('the script for pages could not be made', { error: String(error) });
      throw error;
    }
  }

  /** The script of a host as it is now; undefined for a host that is no link domain. */
  async newest(host: string): Promise<PlaceScript | undefined> {
    let made = this.#made;
    // One that is being made may have begun before the newest change.
    for (let times = 0; times < 3 && !(made && this.#isNewest(made)); times++) made = await this.#make();
    return made?.scripts.get(host);
  }

  /** The same for readers, who do not wait where there is an older one: the next of them gets the newest. */
  async forReaders(host: string): Promise<PlaceScript | undefined> {
    const made = this.#made;
    const known = made?.scripts.get(host);
    if (!made || !known) return this.newest(host);
    if (!this.#isNewest(made) && this.#parts.now() - made.at > soonest) this.#make().catch(() => undefined);
    return known;
  }

  async close(): Promise<void> {
    await this.#worker?.terminate();
  }
}
