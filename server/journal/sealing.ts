import pLimit from 'p-limit';
import type { KeptSeal } from '#core/catalogue';
import type { Chain } from './chain.ts';
import type { SealedPart } from './files.ts';

/** Puts seals into the chain, one after the other; one that the disk does not take is tried again with the next. */
export class Sealing {
  readonly #chain: Chain;
  readonly #options: {
    readonly now: () => number;
    readonly log: (message: string, detail: object) => void;
  };
  readonly #inTurn = pLimit(1);
  /** Finished files whose seals the disk has not taken yet. */
  #finished: SealedPart[];

  constructor(
    chain: Chain,
    unsealed: readonly SealedPart[],
    options: { readonly now: () => number; readonly log: (message: string, detail: object) => void },
  ) {
    this.#chain = chain;
    this.#finished = [...unsealed];
    this.#options = options;
  }

  /** Seals a file to which nothing is written any more. Nobody waits for that. */
  finish(part: SealedPart): void {
    this.#finished.push(part);
    void this.#inTurn(() => this.#sealFinished());
  }

  /**
   * Seals what is finished, and what is being written as far as it is then; gives the newest seal there is after that.
   *
   * @param open what of the file that is written to is not sealed yet; undefined where all of it is
   */
  seal(open: () => SealedPart | undefined): Promise<KeptSeal | undefined> {
    return this.#inTurn(async () => {
      const part = open();
      await this.#sealFinished();
      // Where the file was finished meanwhile, its own seal covers more.
      if (part) await this.#add(part);
      return this.#chain.newest;
    });
  }

  async #sealFinished(): Promise<void> {
    for (let part = this.#finished[0]; part && (await this.#add(part)); part = this.#finished[0])
      this.#finished.shift();
  }

  /** @returns false where the disk did not take it */
  async #add(part: SealedPart): Promise<boolean> {
    try {
      await this.#chain.add({ kind: 'seal', at: this.#options.now(), ...part });
      return true;
    } catch (error) {
      this.#options.log('the journal could not be sealed', { error: String(error) });
      return false;
    }
  }
}
