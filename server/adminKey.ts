import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { giveToOwner } from './dataDir.ts';

/** How often the file is looked at, in milliseconds. */
const lookMs = 500;

const digest = (text: string) => createHash('sha256').update(text).digest();

const freshKey = (): string => randomBytes(24).toString('base64url');

/** Where the key of a data folder is kept. */
export const keyPath = (folder: string): string => join(folder, 'key');

/** Writes a new key into a data folder and gives it: after a crash there is either the old or the new one. */
export const writeNewKey = (folder: string): string => {
  const key = freshKey();
  writeFileSync(`${keyPath(folder)}.new`, `${key}\n`, { mode: 0o600 });
  giveToOwner(folder, 'key.new');
  renameSync(`${keyPath(folder)}.new`, keyPath(folder));
  return key;
};

/**
 * The bearer key of the admin API: the one given by the environment, else the one in the data folder, made at the first
 * start. A key that is written into the file counts at once, so renewing it needs no restart.
 */
export class AdminKey {
  readonly #folder: string;
  readonly #given: string | undefined;
  #key: string;
  #digest: Buffer;
  #changedAt = 0;
  #lookedAt = 0;

  constructor(folder: string, given: string | undefined) {
    this.#folder = folder;
    this.#given = given;
    this.#key = given ?? (this.#read() || writeNewKey(folder));
    this.#digest = digest(this.#key);
    this.#changedAt = this.#timeOfFile();
  }

  /** The key as it is now. */
  get value(): string {
    this.#look();
    return this.#key;
  }

  /** True where the key was given from outside and cannot be renewed here. */
  get isGiven(): boolean {
    return this.#given !== undefined;
  }

  /** True for the key itself; the comparison takes the same time whatever was sent. */
  is(given: string): boolean {
    this.#look();
    return timingSafeEqual(digest(given), this.#digest);
  }

  /**
   * Makes a new key, which counts from now on, and gives it.
   *
   * @throws Error when it was given from outside
   */
  renew(): string {
    if (this.isGiven)
      throw new Error('The key is set by FERNHOP_KEY: change it there and start the server anew.');
    this.#set(writeNewKey(this.#folder));
    return this.#key;
  }

  #set(key: string): void {
    this.#key = key;
    this.#digest = digest(key);
    this.#changedAt = this.#timeOfFile();
  }

  #read(): string {
    try {
      return readFileSync(keyPath(this.#folder), 'utf8').trim();
    } catch {
      // The first start: there is none yet.
      return '';
    }
  }

  #timeOfFile(): number {
    try {
      return statSync(keyPath(this.#folder)).mtimeMs;
    } catch {
      return 0;
    }
  }

  #look(): void {
    const at = Date.now();
    if (this.isGiven || at - this.#lookedAt < lookMs) return;
    this.#lookedAt = at;
    if (this.#timeOfFile() === this.#changedAt) return;
    const key = this.#read();
    // A file that is gone or empty takes nobody's key away.
    if (key !== '') this.#set(key);
  }
}
