import { statfs } from 'node:fs/promises';

const lookMs = 2000;
const megabyte = 1024 * 1024;
/** The share of the whole disk that is kept, at least. */
const share = 0.02;

/**
 * Watches the room on the disk that holds a folder. The last of it is for postbacks alone: 2 % of the disk, and at least so
 * many megabytes.
 */
export class DiskRoom {
  readonly #folder: string;
  readonly #reserveMb: number;
  readonly #onChange: (isLow: boolean) => void;
  #timer: NodeJS.Timeout | undefined;
  #isLow = false;

  /** @param reserveMb 0 keeps nothing back */
  constructor(folder: string, reserveMb: number, onChange: (isLow: boolean) => void) {
    this.#folder = folder;
    this.#reserveMb = reserveMb;
    this.#onChange = onChange;
  }

  /** True while only postbacks may be written. */
  get isLow(): boolean {
    return this.#isLow;
  }

  /** Looks now, and again every two seconds. */
  async start(): Promise<void> {
    if (this.#reserveMb === 0) return;
    await this.#look();
    this.#timer = setInterval(() => void this.#look(), lookMs);
    this.#timer.unref();
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  async #look(): Promise<void> {
    try {
      const { bavail, blocks, bsize } = await statfs(this.#folder);
      const reserve = Math.max(blocks * bsize * share, this.#reserveMb * megabyte);
      const isLow = bavail * bsize < reserve;
      if (isLow === this.#isLow) return;
      this.#isLow = isLow;
      this.#onChange(isLow);
    } catch {
      // Where the room cannot be told, the disk itself says when it is full.
    }
  }
}
