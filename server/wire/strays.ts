import { appendFile, readFile, rename, stat } from 'node:fs/promises';

const mostBytes = 4 * 1024 * 1024;
const mostText = 4096;
/** Most that are given at once. */
const mostGiven = 50;

/** A request that looked like a postback and could not be taken. */
export interface Stray {
  readonly at: number;
  readonly why: string;
  /** Its beginning, as it came. */
  readonly text: string;
}

/**
 * Keeps what looks like a postback but could not be taken: an unknown key, a request that Node refused. Two files
 * of at most 4 MB; when the newer is full it becomes the older.
 */
export const makeStrays = (path: string) => {
  let turn: Promise<void> = Promise.resolve();
  const keep = (why: string, text: string, at: number): void => {
    const line = `${JSON.stringify({ at, why, text: text.slice(0, mostText) })}\n`;
    turn = turn
      .then(async () => {
        const size = await stat(path).then(
          (found) => found.size,
          () => 0,
        );
        if (size + line.length > mostBytes) await rename(path, `${path}.older`);
        await appendFile(path, line, { mode: 0o600 });
      })
      // There is nobody left to tell when strays cannot be kept; the request itself was answered.
      .catch(() => undefined);
  };
  /** The newest, newest first. */
  const newest = async (): Promise<Stray[]> => {
    await turn;
    const text = await readFile(path, 'utf8').catch(() => '');
    return text
      .trimEnd()
      .split('\n')
      .slice(-mostGiven)
      .reverse()
      .flatMap((line): Stray[] => (line === '' ? [] : [JSON.parse(line)])); // written above
  };
  return { keep, newest };
};
