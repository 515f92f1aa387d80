/**
 * One start of a server on its data. Whoever puts an older folder back has to start a server on it, so a change of
 * generation is when something may have been set back.
 */
export interface Generation {
  readonly id: string;
  /** The newest version of the change feed when it began. */
  readonly version: number;
  /** The newest record of the journal when it began. */
  readonly seq: number;
}

/** Which server it is, and every generation of its data that is known to it, oldest first. */
export interface ServerStory {
  readonly identity: string;
  readonly generations: readonly Generation[];
}

/** A server as a browser met it: its identity, and the IDs of its generations then. */
export interface MetServer {
  readonly identity: string;
  readonly generations: readonly string[];
}

/** What of a server's story a browser keeps. */
export const asMet = ({ identity, generations }: ServerStory): MetServer => ({
  identity,
  generations: generations.map(({ id }) => id),
});

/**
 * Where a server's story parts from the one a browser followed: what is beyond that version or record was made in another
 * generation than the browser knows, by either. Undefined where nothing new began. After a plain restart it lies where the
 * browser had got to or beyond; after an older folder was put back, before that.
 */
export const forkOf = (
  met: MetServer,
  { generations }: ServerStory,
): Pick<Generation, 'version' | 'seq'> | undefined => {
  const known = new Set(met.generations);
  const lastCommon = generations.findLastIndex(({ id }) => known.has(id));
  if (lastCommon < 0) return { version: 0, seq: 0 };
  return generations[lastCommon + 1];
};
