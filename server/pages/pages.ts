import { Worker } from 'node:worker_threads';
import type { CrawlStep, TracedHop, TraceEnd } from '#core/link-parts';
import { builtFile } from '../built.ts';
import type { Deadlines } from './ask.ts';
import { usualDeadlines } from './ask.ts';
import type { Crawl } from './crawl.ts';
import type { DomainCheck, DomainToCheck } from './domainCheck.ts';
import type { Bounds } from './guard.ts';
import type { FromWorker, Job, Step, ToWorker, WorkerStart } from './jobs.ts';
import { silentMs, workerLimits } from './limits.ts';
import type { Picture } from './picture.ts';
import type { Sample, SampleAnswer } from './sample.ts';
import type { Trace } from './trace.ts';
import { wholeOf } from './trace.ts';

export interface PagesOptions {
  readonly log?: (message: string, detail: object) => void;
  readonly deadlines?: Deadlines;
  /** File of the worker that waits for the network. */
  readonly worker?: string;
}

/** Most things that are asked at the same time. */
const mostJobs = 30;
const pingMs = 500;

interface Waiting {
  give(step: Step): void;
  end(failed?: string): void;
}

/**
 * Pages of others, asked and read away from the process that hops: one worker waits for the network, a second one reads
 * what came. Whatever a page does, it can freeze or fill those two alone, and either is then replaced.
 */
export class Pages {
  readonly #log: (message: string, detail: object) => void;
  readonly #file: string;
  readonly #start: WorkerStart;
  readonly #jobs = new Map<number, Waiting>();
  #worker: Worker | undefined;
  #heardAt = 0;
  #timer: NodeJS.Timeout | undefined;
  #lastId = 0;

  constructor({
    log = () => undefined,
    deadlines = usualDeadlines,
    worker = builtFile('pages.js'),
  }: PagesOptions = {}) {
    this.#log = log;
    this.#file = worker;
    this.#start = { deadlines, reader: builtFile('pageReader.js'), readMs: silentMs };
  }

  /** Follows a chain hop by hop, as each is known; ends with how it ended, always. */
  async *traceSteps(
    url: string,
    bounds: Bounds,
    {
      toOrder = false,
      asPreview = false,
      signal,
    }: { readonly toOrder?: boolean; readonly asPreview?: boolean; readonly signal?: AbortSignal } = {},
  ): AsyncGenerator<TracedHop | TraceEnd> {
    let ended = false;
    const stopped = (because: string): TraceEnd => ({
      kind: 'end',
      end: 'stopped',
      because,
      page: null,
      order: null,
    });
    try {
      for await (const step of this.#run({ kind: 'trace', url, toOrder, asPreview, bounds }, signal)) {
        if (typeof step !== 'object' || !('kind' in step)) continue;
        if (step.kind !== 'hop' && step.kind !== 'end') continue;
        ended = step.kind === 'end';
        yield step;
      }
    } catch (error) {
      if (!ended) yield stopped(error instanceof Error ? error.message : String(error));
      return;
    }
    if (!ended) yield stopped('You stopped it.');
  }

  /** Follows a chain to its end and gives all of it. */
  trace(url: string, bounds: Bounds, options: { readonly signal?: AbortSignal } = {}): Promise<Trace> {
    return wholeOf(this.traceSteps(url, bounds, options));
  }

  /** Reads a site page by page; ends with how it ended, always. */
  async *crawl(job: Crawl, signal: AbortSignal): AsyncGenerator<CrawlStep> {
    let pages = 0;
    const ended = (because: string): CrawlStep => ({ kind: 'crawled', pages, because });
    try {
      for await (const step of this.#run({ kind: 'crawl', ...job }, signal)) {
        const each = step as CrawlStep; // a crawl gives no other steps
        if (each.kind === 'page') pages += 1;
        yield each;
        if (each.kind === 'crawled') return;
      }
    } catch (error) {
      yield ended(error instanceof Error ? error.message : String(error));
      return;
    }
    yield ended('You stopped it.');
  }

  /** A picture of another host's; a sentence where there is none to be had. */
  async picture(url: string, bounds: Bounds): Promise<Picture | string> {
    return this.#one<Picture | string>({ kind: 'picture', url, bounds }).catch((error: unknown) =>
      error instanceof Error ? error.message : String(error),
    );
  }

  /** What a link domain needs before its links answer. */
  checkDomain(domain: DomainToCheck): Promise<DomainCheck> {
    return this.#one({ kind: 'domain', ...domain });
  }

  /** Sends a sample postback over the network to where a real one would go. */
  sendSample(
    sample: Sample,
    key: string,
    { port, token }: { readonly port: number; readonly token: string },
  ): Promise<SampleAnswer> {
    return this.#one({ kind: 'sample', sample, key, port, token });
  }

  /** Ends whatever is under way. */
  async close(): Promise<void> {
    clearInterval(this.#timer);
    this.#timer = undefined;
    const worker = this.#worker;
    this.#worker = undefined;
    this.#failAll('The server is stopping.');
    await worker?.terminate();
  }

  async #one<T extends Step>(job: Job): Promise<T> {
    for await (const step of this.#run(job)) return step as T; // each kind of job gives its own kind of step
    throw new Error('Nothing came of it.');
  }

  /** Yields the steps of a job; throws with a sentence where it failed. */
  async *#run(job: Job, signal?: AbortSignal): AsyncGenerator<Step> {
    if (signal?.aborted) return;
    if (this.#jobs.size >= mostJobs)
      throw new Error('Too many pages are asked at the moment. Try again in a minute.');
    const id = ++this.#lastId;
    const steps: Step[] = [];
    let failed: string | undefined;
    let ended = false;
    let wake: () => void = () => undefined;
    this.#jobs.set(id, {
      give: (step) => {
        steps.push(step);
        wake();
      },
      end: (why) => {
        failed = why;
        ended = true;
        wake();
      },
    });
    const stop = () => this.#say({ stop: id });
    signal?.addEventListener('abort', stop, { once: true });
    this.#begin();
    this.#say({ id, job });
    try {
      for (;;) {
        const step = steps.shift();
        if (step !== undefined) {
          yield step;
          this.#say({ taken: id });
        } else if (ended) break;
        else await new Promise<void>((resolve) => (wake = resolve));
      }
      if (failed !== undefined) throw new Error(failed);
    } finally {
      signal?.removeEventListener('abort', stop);
      if (this.#jobs.delete(id) && !ended) stop();
      if (this.#jobs.size === 0) {
        clearInterval(this.#timer);
        this.#timer = undefined;
      }
    }
  }

  #say(message: ToWorker): void {
    this.#worker?.postMessage(message);
  }

  #begin(): void {
    if (!this.#worker) {
      const worker = new Worker(this.#file, {
        workerData: this.#start,
        resourceLimits: workerLimits,
      });
      worker.unref();
      worker.on('message', (message: FromWorker) => this.#hear(message));
      worker.on('error', (error) => this.#replace(worker, String(error)));
      worker.on('exit', () => this.#replace(worker, 'it ended'));
      this.#worker = worker;
      this.#heardAt = 0;
    }
    if (this.#timer) return;
    // While there was nothing to do, it was not asked whether it listens.
    if (this.#heardAt > 0) this.#heardAt = performance.now();
    this.#timer = setInterval(() => this.#look(), pingMs);
    this.#timer.unref();
  }

  #hear(message: FromWorker): void {
    this.#heardAt = performance.now();
    if ('pong' in message) return;
    const job = this.#jobs.get(message.id);
    if ('step' in message) job?.give(message.step);
    else job?.end(message.failed);
  }

  #look(): void {
    const worker = this.#worker;
    if (!worker) return;
    // A worker that was just begun has not said anything yet; it has as long from its first word on.
    if (this.#heardAt > 0 && performance.now() - this.#heardAt > silentMs + pingMs)
      this.#replace(worker, 'it did not answer');
    else this.#say({ ping: true });
  }

  #replace(worker: Worker, why: string): void {
    if (this.#worker !== worker) return;
    this.#worker = undefined;
    this.#log('the worker that asks pages was replaced', { why });
    worker.removeAllListeners();
    worker.on('error', () => undefined);
    void worker.terminate();
    this.#failAll('What came back could not be worked through.');
  }

  #failAll(why: string): void {
    for (const job of this.#jobs.values()) job.end(why);
  }
}
