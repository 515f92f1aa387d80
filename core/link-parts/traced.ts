import type { PageFacts } from './pageInLink.ts';

/** One stop of a chain. */
export interface TracedHop {
  readonly kind: 'hop';
  readonly url: string;
  /** HTTP status; 0 when nothing answered. */
  readonly status: number;
  /** Milliseconds until the head of the answer. */
  readonly ms: number;
  readonly location: string | null;
  /** How it led on: by its status, by refresh, by script; nothing when it was the last. */
  readonly by: 'status' | 'refresh' | 'script' | null;
  /** The headers that matter to a hop, as they came. */
  readonly headers: Readonly<Record<string, string>>;
  /** Names of the cookies it set. */
  readonly cookies: readonly string[];
  readonly title: string;
  /** Words of the page that say there is nothing to buy. */
  readonly dead: string | null;
}

/** How a trace ended. */
export interface TraceEnd {
  readonly kind: 'end';
  readonly end: 'arrived' | 'loop' | 'too many hops' | 'stopped';
  /** Why it ended where it did, as a sentence. */
  readonly because: string;
  readonly page: Pick<PageFacts, 'title' | 'description' | 'picture'> | null;
  /** The order page, when it was asked for and linked: which of the values carried there still stand on it. */
  readonly order: {
    readonly url: string;
    readonly status: number;
    readonly surviving: readonly string[];
  } | null;
}
