import { parse } from 'devalue';
import type { QueryName } from '#core/queries';

/** Records that may be missing while a browser answers by itself: they come within a moment. */
const fewMissing = 20_000;
/** For how long a server that did not answer is not asked again. */
const awayMs = 5000;

/** Asks the server what a screen asks, and gives its answer with its maps and typed arrays. */
export type AskServer = (name: QueryName, args: readonly unknown[]) => Promise<string>;

/**
 * Whether the server answers in this browser's place: while much of the journal is missing here, and for good where the journal
 * is larger than what this browser is to keep. As it has the whole journal, its answers are whole too.
 */
export class ServerAnswers {
  #isBehind = false;
  #isTooLarge = false;
  #awayUntil = 0;
  readonly #asked = new Set<Promise<unknown>>();
  #isHeard = false;
  #onHeard: (() => void)[] = [];

  /** Takes how many records are here and on the server, and how many this browser is to keep at most. */
  update(held: number, there: number, most: number): void {
    this.#isTooLarge = there > most;
    if (held >= there) this.#isBehind = false;
    else if (there - held > fewMissing) this.#isBehind = true;
  }

  /** The journal is larger than what this browser is to keep: no more of it is fetched. */
  get isTooLarge(): boolean {
    return this.#isTooLarge;
  }

  /** True where the server is asked, and answered when it was asked last: only then is it known that figures are whole. */
  get isAnswering(): boolean {
    return this.isAsked && this.#isHeard;
  }

  /** Resolves with the next answer of the server. */
  heard(): Promise<void> {
    return new Promise((resolve) => this.#onHeard.push(resolve));
  }

  /** True where the server is to be asked. */
  get isAsked(): boolean {
    return (this.#isBehind || this.#isTooLarge) && Date.now() >= this.#awayUntil;
  }

  /**
   * The server's answer.
   *
   * @throws Error where it does not answer; it is then not asked for a few seconds
   */
  async answer(ask: AskServer, name: QueryName, args: readonly unknown[]): Promise<unknown> {
    const asked = ask(name, args);
    this.#asked.add(asked);
    try {
      const answer: unknown = parse(await asked);
      this.#isHeard = true;
      for (const tell of this.#onHeard.splice(0)) tell();
      return answer;
    } catch (error) {
      this.#awayUntil = Date.now() + awayMs;
      this.#isHeard = false;
      throw error;
    } finally {
      this.#asked.delete(asked);
    }
  }

  /** Resolves once nothing that was asked waits for an answer. */
  async answered(): Promise<void> {
    await Promise.allSettled(this.#asked);
  }
}
