import { randomBytes } from 'node:crypto';
import {
  chownSync,
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
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

/** When a process was started, from the kernel; undefined where it is gone, or ended and not yet reaped by its parent. */
const startOf = (pid: number): string | undefined => {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    // After the name in brackets: the state, and as the 20th field the time of its start (proc(5)).
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return fields[0] === 'Z' || fields[0] === 'X' ? undefined : fields[19];
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

/** True while the process that wrote a lock still runs; a process ID alone may be another process by now. */
const isHeldByProcess = (lock: string): boolean => {
  const [pid = '', start = ''] = lock.split(' ');
  if (pid === '' || !isAlive(Number(pid))) return false;
  return start === '' ? true : startOf(Number(pid)) === start;
};

/** How long a process that holds the folder is waited for: it may be ending. */
const patienceMs = 5000;
const lookMs = 50;

/**
 * Takes the folder for this process and gives the function that lets it go. A lock left by a process that is
 * gone, a killed one for instance, is taken over; one that is held is waited for up to 5 s.
 *
 * @throws Error when another process goes on holding it
 */
export const lockFolder = async (folder: string, waitMs = patienceMs): Promise<() => void> => {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const path = join(folder, 'lock');
  const mine = `${process.pid} ${startOf(process.pid) ?? ''}`;
  const until = Date.now() + waitMs;
  for (;;) {
    try {
      const file = openSync(path, 'wx', 0o600);
      writeSync(file, mine);
      fsyncSync(file);
      closeSync(file);
      return () => rmSync(path, { force: true });
    } catch (error) {
      if (!(error instanceof Error && 'code' in error && error.code === 'EEXIST')) throw error;
    }
    const lock = readIfThere(path);
    if (lock !== undefined && isHeldByProcess(lock)) {
      if (Date.now() >= until)
        throw new Error(
          `${folder} is in use by process ${lock.split(' ', 1)[0] ?? ''}. Stop it first, or set DATA_DIR to another folder.`,
        );
      await new Promise((resolve) => setTimeout(resolve, lookMs));
    } else rmSync(path, { force: true });
  }
};

/**
 * Gives something in a data folder, with all that is in it, to whoever owns that folder, where root works on it: a server that
 * is not root could else not read it.
 */
export const giveToOwner = (folder: string, name: string): void => {
  if (process.getuid?.() !== 0) return;
  const { uid, gid } = statSync(folder);
  const path = join(folder, name);
  chownSync(path, uid, gid);
  if (!statSync(path).isDirectory()) return;
  for (const entry of readdirSync(path, { recursive: true })) chownSync(join(path, String(entry)), uid, gid);
};

/** The text of a file; undefined where it cannot be read. */
export const readIfThere = (path: string): string | undefined => {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return undefined;
  }
};

/** The key that signs what the server hands out and takes back. It stays when the key of the API is renewed. */
export const serverSecret = (folder: string): Buffer => {
  const path = join(folder, 'secret');
  const kept = readIfThere(path)?.trim();
  if (kept !== undefined && /^[0-9a-f]{64}$/.test(kept)) return Buffer.from(kept, 'hex');
  const made = randomBytes(32);
  writeFileSync(path, `${made.toString('hex')}\n`, { mode: 0o600 });
  return made;
};

/**
 * The format of what a server writes into its folder. A change that another one could not read, or would break, gives it the
 * next number. From format 2 on every format is a promise: whoever has it is brought along.
 */
export const dataFormat = 4;
const oldestFormat = 2;

/** The format of a folder; undefined for a new one. Before there was a number it was 1. */
export const dataFormatOf = (folder: string): number | undefined => {
  const written = readIfThere(join(folder, 'format'))?.trim();
  if (written !== undefined) return Number(written);
  const isNew = !existsSync(join(folder, 'changes.ndjson')) && !existsSync(join(folder, 'journal'));
  return isNew ? undefined : 1;
};

/** Why a folder cannot be read, as one line that says what to do; undefined where it can, or is new. */
export const dataFormatProblem = (folder: string): string | undefined => {
  const format = dataFormatOf(folder);
  if (format === undefined || (format >= oldestFormat && format <= dataFormat)) return undefined;
  const begin = `${folder} is in format ${format}, and this Fernhop reads formats ${oldestFormat} to ${dataFormat}.`;
  return format < oldestFormat
    ? `${begin} Set DATA_DIR to an empty folder, and bring links over by an export of the server that wrote it.`
    : `${begin} A newer one wrote it: install that one again, or a newer one still. Nothing was changed.`;
};
