import { randomBytes } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import { clickId } from '#core/hop';
import type { LogReading, LogReport } from '#core/visits';
import type { Audit } from '../audit.ts';
import { builtFile } from '../built.ts';
import type { Journal } from '../journal/index.ts';

/** What the thread that reads a log is started with. */
export interface IntakeData {
  readonly dataDir: string;
  readonly of: string;
  readonly seq: number;
  readonly geoDb: string | undefined;
  readonly hostingNetworks: string | undefined;
  readonly testToken: string;
  readonly reading: LogReading;
}
export type ToIntake =
  | { readonly kind: 'file'; readonly name: string }
  | { readonly kind: 'piece'; readonly bytes: Uint8Array }
  | { readonly kind: 'end' }
  | { readonly kind: 'written' };
export type FromIntake =
  | { readonly kind: 'ready' }
  | { readonly kind: 'lines'; readonly lines: readonly string[] }
  | { readonly kind: 'report'; readonly report: LogReport }
  | { readonly kind: 'failed'; readonly problem: string };

export interface AccessLogsParts {
  readonly dataDir: string;
  /** An own table of countries; undefined for the one that ships. */
  readonly geoDb: string | undefined;
  readonly hostingNetworks: string | undefined;
  readonly testToken: string;
  /** Tells this journal from others, and from itself before something of it was removed. */
  readonly of: () => string;
  readonly journal: Journal;
  /** The disk is nearly full: its last room is kept for postbacks. */
  readonly isLow: () => boolean;
  readonly audit: Audit;
  readonly now: () => number;
}

/** A reading of which nothing more came for so long is ended; after the shorter time, where another one is to begin. */
const idleMs = 5 * 60_000;
const leftMs = 60_000;
/** What a journal of ten million takes, twice. */
const oldMb = 4096;
/** Room for lines, which are read and let go at once. */
const youngMb = 32;

/** Why a call of a reading cannot be answered. */
export class LogProblem extends Error {
  /** `unknown`: there is no such reading; `busy`: another one; `order`: a piece is missing; `failed`: it ended. */
  readonly kind: 'unknown' | 'busy' | 'order' | 'failed';

  constructor(kind: LogProblem['kind'], message: string) {
    super(message);
    this.kind = kind;
  }
}

interface Running {
  readonly id: string;
  readonly reading: LogReading;
  readonly worker: Worker;
  /** Bytes of the file that came so far. */
  bytes: number;
  /** Names of the files, for the audit. */
  readonly names: string[];
  /** The report on the last piece, for a caller who did not hear of it. */
  last: LogReport | undefined;
  /** When something of it came last. */
  heardAt: number;
  waiting: { resolve(report: LogReport | undefined): void; reject(error: Error): void } | undefined;
  idle: NodeJS.Timeout;
}

/** Brings access logs in: one reading at a time, in a thread of its own, from pieces as they come. */
export class AccessLogs {
  readonly #parts: AccessLogsParts;
  #running: Running | undefined;

  constructor(parts: AccessLogsParts) {
    this.#parts = parts;
  }

  /**
   * Begins a reading; gives its name.
   *
   * @throws LogProblem where another is going on
   */
  async begin(reading: LogReading): Promise<string> {
    const { now } = this.#parts;
    if (this.#running && !this.#running.waiting && now() - this.#running.heardAt > leftMs)
      this.#end(this.#running, 'Another one began.');
    if (this.#running)
      throw new LogProblem(
        'busy',
        'An access log is being read already. Wait for it; where nobody reads it any more, begin again in a minute.',
      );
    const { dataDir, geoDb, hostingNetworks, testToken, of, journal } = this.#parts;
    const data: IntakeData = {
      dataDir,
      of: of(),
      seq: journal.seq,
      geoDb,
      hostingNetworks,
      testToken,
      reading,
    };
    const worker = new Worker(builtFile('logIntake.js'), {
      workerData: data,
      resourceLimits: { maxYoungGenerationSizeMb: youngMb, maxOldGenerationSizeMb: oldMb },
    });
    worker.unref();
    const id = clickId(now(), randomBytes(10));
    const running: Running = {
      ...{ id, reading, worker, bytes: 0, names: [], last: undefined, waiting: undefined },
      heardAt: now(),
      idle: setTimeout(() => this.#end(running, 'Nothing of it came any more.'), idleMs),
    };
    this.#running = running;
    worker.on('message', (message: FromIntake) => this.#heard(running, message));
    worker.on('error', (error) => this.#end(running, error.message));
    await this.#answer(running);
    return id;
  }

  /** Begins the next file of a reading. */
  async file(id: string, name: string): Promise<LogReport> {
    const running = this.#find(id);
    const report = await this.#ask(running, { kind: 'file', name });
    running.bytes = 0;
    running.last = report;
    running.names.push(name);
    return report;
  }

  /**
   * Takes a piece of the file; one that came before is passed over.
   *
   * @param at how many bytes of the file lie before it
   */
  async piece(id: string, at: number, bytes: Uint8Array): Promise<LogReport> {
    const running = this.#find(id);
    if (running.names.length === 0) throw new LogProblem('order', 'Name a file first.');
    if (bytes.byteLength > 0 && at + bytes.byteLength === running.bytes && running.last) return running.last;
    if (at !== running.bytes)
      throw new LogProblem('order', `The next piece begins at byte ${running.bytes}, not at ${at}.`);
    const report = await this.#ask(running, { kind: 'piece', bytes });
    running.bytes += bytes.byteLength;
    running.last = report;
    return report;
  }

  /** Ends a reading; gives what came of all of it. */
  async end(id: string): Promise<LogReport> {
    const running = this.#find(id);
    const report = await this.#ask(running, { kind: 'end' });
    this.#tell(running, report);
    this.#end(running, 'It is over.');
    return report;
  }

  /** Ends a reading before its end; what was brought in stays. */
  stop(id: string): void {
    const running = this.#find(id);
    if (running.last) this.#tell(running, running.last);
    this.#end(running, 'It was stopped.');
  }

  close(): void {
    if (this.#running) this.#end(this.#running, 'The server ends.');
  }

  #find(id: string): Running {
    const running = this.#running;
    if (running?.id !== id)
      throw new LogProblem(
        'unknown',
        'This reading is over. Begin again: what was brought in is known and not brought in twice.',
      );
    return running;
  }

  #ask(running: Running, message: ToIntake): Promise<LogReport> {
    if (running.waiting)
      return Promise.reject(new LogProblem('busy', 'The piece before this one is still being read.'));
    running.idle.refresh();
    running.heardAt = this.#parts.now();
    const answer = this.#answer(running);
    running.worker.postMessage(message);
    return answer.then((report) => {
      if (!report) throw new LogProblem('failed', 'The thread gave no report.');
      return report;
    });
  }
  #answer(running: Running): Promise<LogReport | undefined> {
    return new Promise((resolve, reject) => (running.waiting = { resolve, reject }));
  }

  #heard(running: Running, message: FromIntake): void {
    if (message.kind === 'lines') {
      if (this.#parts.isLow()) {
        this.#end(
          running,
          'The disk of the server is nearly full, and its last room is kept for postbacks. Free some and begin again: what was brought in is known.',
        );
        return;
      }
      this.#parts.journal.keepRests(message.lines).then(
        () => running.worker.postMessage({ kind: 'written' } satisfies ToIntake),
        (error: unknown) =>
          this.#end(
            running,
            `The server cannot write it down: ${error instanceof Error ? error.message : String(error)}`,
          ),
      );
      return;
    }
    if (message.kind === 'failed') {
      this.#end(running, message.problem);
      return;
    }
    const { waiting } = running;
    running.waiting = undefined;
    waiting?.resolve(message.kind === 'report' ? message.report : undefined);
  }

  #tell({ reading: { dryRun, by }, names }: Running, { fresh }: LogReport): void {
    if (dryRun || fresh.count === 0) return;
    const [name = ''] = names;
    const from = names.length === 1 ? `the access log ${name.slice(0, 80)}` : `${names.length} access logs`;
    this.#parts.audit.note(
      'access log',
      `${by === '' ? 'Somebody' : by} brought in ${fresh.count} requests from ${from}.`,
      this.#parts.now(),
    );
  }

  #end(running: Running, why: string): void {
    clearTimeout(running.idle);
    if (this.#running === running) this.#running = undefined;
    running.waiting?.reject(new LogProblem('failed', why));
    running.waiting = undefined;
    void running.worker.terminate();
  }
}
