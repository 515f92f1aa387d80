import { open } from 'node:fs/promises';
import * as v from 'valibot';

const erasure = v.strictObject({
  /** Everything left up to this moment was erased; milliseconds since 1970 UTC. */
  at: v.number(),
  /** Of this link alone. */
  link: v.exactOptional(v.string()),
});

/** That mail addresses were erased. It holds none itself, and is repeated on a backup from before that is put back. */
export type Erasure = v.InferOutput<typeof erasure>;

/** Writes down an erasure; resolves once it is on disk. */
export const noteErasure = async (path: string, made: Erasure): Promise<void> => {
  const handle = await open(path, 'a', 0o600);
  try {
    await handle.writeFile(`${JSON.stringify(made)}\n`);
    await handle.sync();
  } finally {
    await handle.close();
  }
};

/** The erasures of a text of lines; a line torn by a crash is none, since nothing was erased then. */
export const readErasures = (text: string): Erasure[] =>
  text.split('\n').flatMap((line) => {
    try {
      const read = v.safeParse(erasure, JSON.parse(line));
      return read.success ? [read.output] : [];
    } catch {
      return [];
    }
  });

/** True for an address that one of the erasures reaches. */
export const isErased = (
  { at, link }: { readonly at: number; readonly link: string },
  erasures: readonly Erasure[],
): boolean => erasures.some((one) => at <= one.at && (one.link === undefined || one.link === link));
