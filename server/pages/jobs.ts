import type { CrawlStep, TracedHop, TraceEnd } from '#core/link-parts';
import type { Deadlines } from './ask.ts';
import type { Crawl } from './crawl.ts';
import type { DomainCheck, DomainToCheck } from './domainCheck.ts';
import type { Bounds } from './guard.ts';
import type { Picture } from './picture.ts';
import type { Sample, SampleAnswer } from './sample.ts';

/** What the worker that asks the network can be given to do. */
export type Job =
  | {
      readonly kind: 'trace';
      readonly url: string;
      readonly toOrder: boolean;
      readonly asPreview: boolean;
      readonly bounds: Bounds;
    }
  | { readonly kind: 'picture'; readonly url: string; readonly bounds: Bounds }
  | ({ readonly kind: 'crawl' } & Crawl)
  | ({ readonly kind: 'domain' } & DomainToCheck)
  | {
      readonly kind: 'sample';
      readonly sample: Sample;
      readonly key: string;
      readonly port: number;
      readonly token: string;
    };

/** What a job gives, one after the other; a trace gives each hop, a crawl each page, the others one answer. */
export type Step = TracedHop | TraceEnd | CrawlStep | Picture | string | DomainCheck | SampleAnswer;

/** What is said to the worker: a job to do or to stop, that a step of one was taken, and whether it still listens. */
export type ToWorker =
  | { readonly id: number; readonly job: Job }
  | { readonly stop: number }
  | { readonly taken: number }
  | { readonly ping: true };

/** What the worker says: a step of a job, its end, and that it listens. */
export type FromWorker =
  | { readonly id: number; readonly step: Step }
  | { readonly id: number; readonly end: true; readonly failed?: string }
  | { readonly pong: true };

/** What the worker is started with. */
export interface WorkerStart {
  readonly deadlines: Deadlines;
  /** File of the worker that reads pages. */
  readonly reader: string;
  readonly readMs: number;
}
