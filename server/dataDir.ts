import { randomBytes } from 'node:crypto';
import {
  closeSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { open, rename } from 'node:fs/promises';
import { dirname, join } from 'node:path';

/** Makes sure that a folder's entries (new, renamed, removed files) are on disk. */
export const syncFolder = async (folder: string): Promise<void> => {
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
};

/** Replaces a file as a whole: after a crash there is either the old or the new one. */
export const replaceFile = async (path: string, content: string | Buffer): Promise<void> => {
  const handle = await open(`${path}.new`, 'w', 0o600);
  try {
    await handle.writeFile(content);
    await handle.sync();
  } finally {
    await handle.close();
  }
  await rename(`${path}.new`, path);
  await syncFolder(dirname(path));
};

/** When a process was started, from the kernel; undefined where that cannot be known. */
const startOf = (pid: number): string | undefined => {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19];
  } catch {
    return undefined;
  }
};

const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error instanceof Error && 'code' in error && error.code === 'EPERM';
  }
};

/**
 * Takes the folder for this process and gives the function that lets it go. A lock left by a process that is
 * gone, a killed one for instance, is taken over.
 *
 * @throws Error when another process holds it
 */
export const lockFolder = (folder: string): (() => void) => {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const path = join(folder, 'lock');
  const mine = `${process.pid} ${startOf(process.pid) ?? ''}`;
  for (let tries = 0; tries < 3; tries++) {
    try {
      const file = openSync(path, 'wx', 0o600);
      writeSync(file, mine);
      fsyncSync(file);
      closeSync(file);
      return () => rmSync(path, { force: true });
    } catch (error) {
      if (!(error instanceof Error && 'code' in error && error.code === 'EEXIST')) throw error;
      const [pid = '', start = ''] = readFileSync(path, 'utf8').split(' ');
      const running = pid !== '' && isAlive(Number(pid)) && (start === '' || startOf(Number(pid)) === start);
      if (running)
        throw new Error(
          `${folder} is in use by process ${pid}. Stop it first, or set DATA_DIR to another folder.`,
        );
      rmSync(path, { force: true });
    }
  }
  throw new Error(`${path} cannot be taken.`);
};

/** The key of the admin API: the one given, else the one in the folder, else a new one. */
export const adminKey = (folder: string, given: string | undefined): string => {
  if (given !== undefined) return given;
  const path = join(folder, 'key');
  try {
    const kept = readFileSync(path, 'utf8').trim();
    if (kept !== '') return kept;
  } catch {
    // The first start: there is none yet.
  }
  const made = randomBytes(24).toString('base64url');
  writeFileSync(path, `${made}\n`, { mode: 0o600 });
  return made;
};
