/** What became of a request: exactly one of these. */
export type Outcome = 'test' | 'prefetch' | 'bot' | 'not redirected' | 'repeat' | 'counted';

/** Requests of some sources in some time, by some user agents, that a person treats as machines'. */
export interface MachineRule {
  /** As they stood in the address; an empty one is no source. */
  readonly sources: readonly string[];
  /** Milliseconds since 1970 UTC, both included. */
  readonly from: number;
  readonly until: number;
  /** Whole user agents; all of them where none is named. */
  readonly agents: readonly string[];
}

export interface ClassificationRules {
  /** How long the same visitor on the same link is a repeat after a counted visit, in minutes. */
  readonly repeatMinutes: number;
  /** A request is a machine's when the same visitor made at least this many … */
  readonly burstRequests: number;
  /** … before it, each of them within this many seconds of it. */
  readonly burstSeconds: number;
  /** Whoever makes a test hop is the person: what the same visitor asks for after it is a test too. */
  readonly ownByTest?: boolean | undefined;
  readonly machines?: readonly MachineRule[] | undefined;
}

/**
 * Whoever asks from a hosting network for so many different links of mailings within so many seconds looks through mail as a scanner
 * does, and all of its requests in that time are a machine's. The links are looked for among its last requests only, so that somebody
 * who asks without pause costs no more.
 */
export const scannerRule = { links: 3, seconds: 10, requests: 50 } as const;

/** By what a request is a machine's, the first that fits. */
export const botKinds = [
  '',
  'declared',
  'no user agent',
  'HEAD',
  'burst',
  'mail scanner',
  'treated',
] as const;
export type BotKind = (typeof botKinds)[number];

/** What counts where the person set nothing else. */
export const defaultRules: ClassificationRules = { repeatMinutes: 30, burstRequests: 20, burstSeconds: 10 };
