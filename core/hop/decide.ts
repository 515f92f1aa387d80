import type { Device } from './request.ts';

/** What is known of a request when its hop is decided. */
export interface HopRequest {
  /** Milliseconds since 1970 UTC. */
  readonly at: number;
  readonly source: string;
  /** Raw query to pass on, less our own parameters. */
  readonly query: string;
  /** ISO 3166-1 alpha-2, or empty when unknown. */
  readonly country: string;
  readonly device: Device;
}

/** One branch that was looked at, and why it was taken or not. */
export interface Reason {
  readonly branch: string;
  readonly taken: boolean;
  /** A plain sentence. */
  readonly because: string;
}

export interface Decision {
  readonly branch: string;
  readonly why: readonly Reason[];
}

/** The name of the branch that serves when no other fits. */
export const everyoneElse = 'everyone';

const onlyBranch: Decision = {
  branch: everyoneElse,
  why: [{ branch: everyoneElse, taken: true, because: 'The link has one destination, for everyone.' }],
};

/** Chooses the branch of a link for a request. A link has one destination so far, so every request takes it. */
export const decide = (_link: unknown, _request: HopRequest): Decision => onlyBranch;
