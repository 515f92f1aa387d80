import { open, readFile, rm, stat } from 'node:fs/promises';
import pLimit from 'p-limit';
import * as v from 'valibot';
import { replaceFile } from './dataDir.ts';
import { noteErasure } from './erasures.ts';

const mail = v.object({
  /** Milliseconds since 1970 UTC. */
  at: v.number(),
  link: v.string(),
  mail: v.string(),
  /** The words it was given under. */
  consent: v.string(),
});

/** An address a visitor left on the page of a closed link. */
export type Mail = v.InferOutput<typeof mail>;

const mostBytes = 20 * 1024 * 1024;

/**
 * The addresses visitors left: what is personal stays in this one file, outside the journal, so that it can be handed
 * out and erased.
 */
export class WaitingList {
  readonly #path: string;
  readonly #erasures: string;
  readonly #hasRoom: () => boolean;
  readonly #inTurn = pLimit(1);

  /**
   * @param erasures the file in which erasures are written down
   * @param hasRoom false while the rest of the disk is for postbacks alone
   */
  constructor(path: string, erasures: string, hasRoom: () => boolean = () => true) {
    this.#path = path;
    this.#erasures = erasures;
    this.#hasRoom = hasRoom;
  }

  /**
   * Keeps an address; resolves once it is on disk.
   *
   * @throws Error when the file is full or the disk does not take it
   */
  keep(entry: Mail): Promise<void> {
    return this.#inTurn(async () => {
      if (!this.#hasRoom()) throw new Error('The disk is nearly full.');
      const size = await stat(this.#path).then(
        (found) => found.size,
        () => 0,
      );
      if (size > mostBytes) throw new Error('The file of mail addresses is full. Export and erase it.');
      const handle = await open(this.#path, 'a', 0o600);
      try {
        await handle.writeFile(`${JSON.stringify(entry)}\n`);
        await handle.sync();
      } finally {
        await handle.close();
      }
    });
  }

  /** Every address kept, oldest first. */
  all(): Promise<Mail[]> {
    return this.#inTurn(() => this.#read());
  }

  /**
   * Erases what was left for one link, or all of it; gives how many there were. That it was erased is written down first, so
   * that it is erased again where a backup from before is put back.
   *
   * @param at milliseconds since 1970 UTC
   */
  erase(at: number, link?: string): Promise<number> {
    return this.#inTurn(async () => {
      await noteErasure(this.#erasures, { at, ...(link !== undefined && { link }) });
      const all = await this.#read();
      const left = link === undefined ? [] : all.filter((entry) => entry.link !== link);
      if (left.length === 0) await rm(this.#path, { force: true });
      else await replaceFile(this.#path, left.map((entry) => `${JSON.stringify(entry)}\n`).join(''));
      return all.length - left.length;
    });
  }

  async #read(): Promise<Mail[]> {
    const text = await readFile(this.#path, 'utf8').catch(() => '');
    return text.split('\n').flatMap((line) => {
      // A line torn by a crash is no address.
      try {
        const read = v.safeParse(mail, JSON.parse(line));
        return read.success ? [read.output] : [];
      } catch {
        return [];
      }
    });
  }
}
