import { appendFile, readFile, rename, stat } from 'node:fs/promises';
import pLimit from 'p-limit';
import * as v from 'valibot';
import { MinuteLimit } from './minuteLimit.ts';

const mostBytes = 4 * 1024 * 1024;
const mostText = 4096;
/** Most that are given at once. */
const mostGiven = 50;
/** Most that wait for the disk; what comes beyond them is counted. */
const mostWaiting = 200;
const gatherMs = 250;
/** How often the number of those that were not kept is told. */
const tellMs = 60_000;
/** Most of one address within a minute, so that whoever sends many does not push out what others sent. */
const mostOfAddress = 100;

const rejectedRequest = v.object({
  /** Milliseconds since 1970 UTC. */
  at: v.number(),
  why: v.string(),
  /** Its beginning, as it came. */
  text: v.string(),
});

/** A request that looked like a postback and could not be taken. */
export type RejectedRequest = v.InferOutput<typeof rejectedRequest>;

export interface Rejected {
  /** Keeps one of an address; counts it where too many wait, or where the address sent many within the minute. */
  keep(why: string, text: string, address: string, at: number): void;
  /** The newest, newest first. */
  newest(): Promise<RejectedRequest[]>;
  /** Writes what waits. */
  close(): Promise<void>;
}

const sizeOf = (path: string): Promise<number> =>
  stat(path).then(
    (found) => found.size,
    () => 0,
  );

const readLine = (line: string): RejectedRequest[] => {
  // A line torn by a crash is none.
  try {
    const read = v.safeParse(rejectedRequest, JSON.parse(line));
    return read.success ? [read.output] : [];
  } catch {
    return [];
  }
};

/**
 * Keeps what looks like a postback but could not be taken: an unknown key, a request that Node refused. Two files
 * of at most 4 MB; when the newer is full it becomes the older. It is written in batches, and its queue is bounded.
 *
 * @param hasRoom false while the rest of the disk is for postbacks alone
 */
export const makeRejected = (path: string, hasRoom: () => boolean = () => true): Rejected => {
  const ofAddress = new MinuteLimit(mostOfAddress);
  let waiting: string[] = [];
  let beyond = 0;
  let toldAt = -Infinity;
  let closing = false;
  let timer: NodeJS.Timeout | undefined;
  const inTurn = pLimit(1);

  const write = async (): Promise<void> => {
    timer = undefined;
    const lines = waiting;
    const now = Date.now();
    // Told seldom, so that whoever sends many does not fill the file with their number either.
    if (beyond > 0 && (closing || now - toldAt >= tellMs)) {
      lines.push(`${JSON.stringify({ at: now, why: `and ${beyond} more, not kept`, text: '' })}\n`);
      toldAt = now;
      beyond = 0;
    }
    waiting = [];
    if (lines.length === 0 || !hasRoom()) return;
    const text = lines.join('');
    if ((await sizeOf(path)) + text.length > mostBytes) await rename(path, `${path}.older`);
    await appendFile(path, text, { mode: 0o600 });
  };
  const flush = (): Promise<void> =>
    // There is nobody left to tell when they cannot be kept; the request itself was answered.
    inTurn(write).catch(() => undefined);

  return {
    keep: (why, text, address, at) => {
      if (waiting.length >= mostWaiting || !ofAddress.take(address, at)) beyond += 1;
      else waiting.push(`${JSON.stringify({ at, why, text: text.slice(0, mostText) })}\n`);
      timer ??= setTimeout(() => void flush(), gatherMs);
    },
    newest: async () => {
      await flush();
      const text = await readFile(path, 'utf8').catch(() => '');
      return text.trimEnd().split('\n').slice(-mostGiven).reverse().flatMap(readLine);
    },
    close: async () => {
      clearTimeout(timer);
      closing = true;
      await flush();
    },
  };
};
