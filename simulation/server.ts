import { cpSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Change, ServerStory } from '#core/catalogue';
import { signatureOf } from '#core/catalogue';
import { Feed } from '../server/feed/index.ts';
import { beginGeneration } from '../server/generations.ts';
import type { Signed, SyncServer } from '../app/sync/index.ts';
import { ServerError } from '../app/sync/index.ts';

/** A server's change feed as it is, on a folder of its own, with the doors of the API as functions. */
export class SimulatedServer {
  readonly #root = mkdtempSync(join(tmpdir(), 'fernhop-world-'));
  #folder = join(this.#root, 'data');
  #backups = 0;
  #identities = 0;
  #started = 0;
  #feed: Feed | undefined;
  #story: ServerStory = { identity: '', generations: [] };

  /** Starts on the folder as it stands. */
  async start(): Promise<void> {
    mkdirSync(this.#folder, { recursive: true });
    this.#feed = await Feed.open(join(this.#folder, 'changes.ndjson'), {
      isAppHost: () => false,
      onStored: () => undefined,
    });
    this.#started += 1;
    this.#story = {
      identity: `server${this.#identities}`,
      generations: await beginGeneration(
        this.#folder,
        { id: `start${this.#started}`, version: this.#feed.version, seq: 0 },
        () => undefined,
      ),
    };
  }

  async stop(): Promise<void> {
    await this.#feed?.close();
    this.#feed = undefined;
  }

  async restart(): Promise<void> {
    await this.stop();
    await this.start();
  }

  /** Copies the folder away; gives the number of the copy. */
  backUp(): number {
    this.#backups += 1;
    cpSync(this.#folder, join(this.#root, `backup${this.#backups}`), { recursive: true });
    return this.#backups;
  }

  /** Puts an older copy in the place of the folder, as somebody with a backup would. */
  async restore(backup: number): Promise<void> {
    await this.stop();
    rmSync(this.#folder, { recursive: true });
    cpSync(join(this.#root, `backup${backup}`), this.#folder, { recursive: true });
    await this.start();
  }

  /** Begins with an empty folder, as another server. */
  async empty(): Promise<void> {
    await this.stop();
    rmSync(this.#folder, { recursive: true });
    this.#identities += 1;
    await this.start();
  }

  async remove(): Promise<void> {
    await this.stop();
    rmSync(this.#root, { recursive: true });
  }

  get #signature(): string {
    return signatureOf(this.#story);
  }

  get feed(): Feed {
    if (!this.#feed) throw new ServerError(0, 'The server is down.');
    return this.#feed;
  }

  get identity(): string {
    return this.#story.identity;
  }

  #signed<T>(answer: T): Signed<T> {
    // As it travels: what a browser changes of it changes nothing here.
    return { ...structuredClone(answer), signature: this.#signature };
  }

  /** The doors of the API. */
  readonly api: SyncServer = {
    health: async () =>
      this.#signed({ ok: true, links: this.feed.table.links.size, version: this.feed.version, seq: 0 }),
    story: async () => this.#signed(this.#story),
    changes: async (after) => this.#signed(await this.feed.read(after)),
    digest: async () => this.#signed(await this.feed.digest()),
    send: async (changes: readonly Change[], signature) => {
      if (signature !== this.#signature) throw new ServerError(412, 'Meant for another server');
      return this.#signed(await this.feed.apply(structuredClone(changes)));
    },
  };
}
