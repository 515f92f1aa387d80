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

/** The signature of a server at a time: its identity, and the generation of its data. */
export const signatureOf = ({ identity, generations }: ServerStory): string =>
  `${identity} ${generations.at(-1)?.id ?? ''}`;

/** A place in the change feed and one in the journal. */
export type Fork = Pick<Generation, 'version' | 'seq'>;

/**
 * Where a server's story parts from the one a browser followed: what is beyond that version or record was made in another
 * generation than the other knows, by either. Undefined where nothing new began. After a plain restart it lies where the
 * browser had got to or beyond; after an older folder was put back, before that.
 *
 * @param met the story as the browser last heard it
 */
export const forkOf = (met: ServerStory, now: ServerStory): Fork | undefined => {
  const known = new Map(met.generations.map(({ id }, i) => [id, i]));
  const lastCommon = now.generations.findLastIndex(({ id }) => known.has(id));
  const common = now.generations[lastCommon];
  if (!common) return { version: 0, seq: 0 };
  const theirs = now.generations[lastCommon + 1];
  const mine = met.generations[(known.get(common.id) ?? -1) + 1]; // it is known: see above
  const begun = [theirs, mine].filter((generation) => generation !== undefined);
  // Both went on from the last one in common, each perhaps from an earlier place than the other.
  return begun.length === 0
    ? undefined
    : {
        version: Math.min(...begun.map(({ version }) => version)),
        seq: Math.min(...begun.map(({ seq }) => seq)),
      };
};
