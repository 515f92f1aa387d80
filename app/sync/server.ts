import type { Change, ChangesAnswer, ChangesPage, Digest, KeptSeal, ServerStory } from '#core/catalogue';

/** An answer with the signature of the server that gave it: its identity and the generation of its data. */
export type Signed<T> = T & { readonly signature: string };

/** What the server says of how it is. */
export interface Health {
  readonly ok: boolean;
  readonly links: number;
  readonly version: number;
  readonly seq: number;
  /** The newest seal of its journal; none in an empty one. */
  readonly seal?: KeptSeal;
  /** How many files of its journal are not what was sealed; left out where all are. */
  readonly damaged?: number;
  readonly problem?: string;
}

/** The server as the browser talks to it. Every call rejects with a `ServerError` where it came to nothing. */
export interface SyncServer {
  health(): Promise<Signed<Health>>;
  story(): Promise<Signed<ServerStory>>;
  changes(after: number): Promise<Signed<ChangesPage>>;
  /** @param signature the server that is meant; another one takes nothing */
  send(changes: readonly Change[], signature: string): Promise<Signed<ChangesAnswer>>;
  digest(): Promise<Signed<{ readonly version: number; readonly kinds: Digest }>>;
}

/** The server did not answer, or something else did than was asked. */
export class ServerError extends Error {
  /** HTTP status; 0 where nothing answered, or something that is not our server. */
  readonly status: number;
  /** Something answered that is not our server: a portal of a hotel, for instance. */
  readonly isStranger: boolean;
  constructor(status: number, message: string, isStranger = false) {
    super(message);
    this.status = status;
    this.isStranger = isStranger;
  }
}
