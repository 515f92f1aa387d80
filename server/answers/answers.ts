import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import type { Asked, Prepare } from './answers.worker.ts';

export interface AnswersParts {
  readonly dataDir: string;
  /** Tells this journal from others, and from itself before something of it was removed. */
  readonly of: () => string;
  /** The newest record of the journal. */
  readonly seq: () => number;
}

/** A thread that nobody asked for so long is ended, and its memory given back. */
const idleMs = 10 * 60_000;
/** A question that takes longer ends the thread: it is begun anew by the next. */
const longestMs = 60_000;
/** Questions that wait at once; more are refused. */
const mostWaiting = 50;

/** Room for what is read and let go at once, without which most of the time goes to collecting it. */
const youngMb = 64;
/** What a journal of ten million takes, twice. */
const oldMb = 4096;

interface Waiting {
  readonly resolve: (answer: string) => void;
  readonly reject: (error: Error) => void;
  readonly late: ReturnType<typeof setTimeout>;
}
interface Answered {
  readonly id: number;
  readonly answer?: string;
  readonly problem?: string;
}

/** Answers the questions of screens in a thread of its own, from the data folder, for browsers that do not hold all of it. */
export class AnswersThread {
  readonly #parts: AnswersParts;
  readonly #waiting = new Map<number, Waiting>();
  #worker: Worker | undefined;
  #idle: ReturnType<typeof setTimeout> | undefined;
  #last = 0;

  constructor(parts: AnswersParts) {
    this.#parts = parts;
  }

  /**
   * Asks a question.
   *
   * @returns the answer as the `devalue` library writes it, with its maps and typed arrays
   * @throws Error with one line where it cannot be answered, or not now
   */
  ask(name: string, args: readonly unknown[]): Promise<string> {
    if (this.#waiting.size >= mostWaiting)
      return Promise.reject(new Error('Too many questions wait. Ask again in a moment.'));
    const worker = (this.#worker ??= this.#start());
    clearTimeout(this.#idle);
    const id = (this.#last += 1);
    return new Promise((resolve, reject) => {
      const late = setTimeout(() => this.#end(new Error('It took too long.')), longestMs);
      this.#waiting.set(id, { resolve, reject, late });
      const asked: Asked = { id, of: this.#parts.of(), seq: this.#parts.seq(), name, args };
      worker.postMessage(asked);
    });
  }

  /** Reads what answers are made of, for somebody who is about to ask; does nothing where that was done. */
  prepare(): void {
    if (this.#worker) return;
    this.#worker = this.#start();
    const about: Prepare = { of: this.#parts.of(), seq: this.#parts.seq() };
    this.#worker.postMessage(about);
    this.#endWhenIdle();
  }

  #endWhenIdle(): void {
    this.#idle = setTimeout(() => this.#end(), idleMs).unref();
  }

  #start(): Worker {
    const worker = new Worker(builtFile('answers.js'), {
      workerData: { dataDir: this.#parts.dataDir },
      resourceLimits: { maxYoungGenerationSizeMb: youngMb, maxOldGenerationSizeMb: oldMb },
    });
    worker.unref();
    worker.on('message', ({ id, answer, problem }: Answered) => {
      const waiting = this.#waiting.get(id);
      if (!waiting) return;
      this.#waiting.delete(id);
      clearTimeout(waiting.late);
      if (answer === undefined) waiting.reject(new Error(problem));
      else waiting.resolve(answer);
      if (this.#waiting.size === 0) this.#endWhenIdle();
    });
    worker.on('error', (error) => this.#end(error));
    return worker;
  }

  /** Ends the thread; who waits is told why. */
  #end(why = new Error('The server ends.')): void {
    const worker = this.#worker;
    this.#worker = undefined;
    for (const { reject, late } of this.#waiting.values()) {
      clearTimeout(late);
      reject(why);
    }
    this.#waiting.clear();
    void worker?.terminate();
  }

  close(): void {
    clearTimeout(this.#idle);
    this.#end();
  }
}
