import type { Socket } from 'node:net';
import { connect } from 'node:net';

/** Longer than this between two looks, and the client itself was kept from its work. */
const longestLookMs = 0.3;
/** How long the last answers are waited for. */
const longestWaitMs = 1000;
/** Requests one connection may have under way. */
const mostUnderWay = 4096;
const end = Buffer.from('\r\n\r\n');

/** How long answers took that were asked for at a fixed rate. */
export interface Asked {
  /** Microseconds, sorted. */
  readonly latencies: readonly number[];
  /** The share of requests of which the client could not tell, since it was kept from its work itself. */
  readonly unseen: number;
}

/** A server left requests unanswered for a second: it was asked for more than it can do now. */
export class FellBehind extends Error {}

/**
 * Asks at a fixed rate over kept connections, whether or not what was asked before is answered, so that a server that
 * falls behind cannot hide it. What the client itself missed (the machine gave it no time, or it collected garbage) is
 * told apart: it is neither asked for later in a burst, nor counted as the server's time.
 *
 * @throws FellBehind when the server leaves requests unanswered for a second
 */
export const askAtRate = async (
  port: number,
  request: string,
  perSecond: number,
  seconds: number,
  connections = 16,
): Promise<Asked> => {
  const bytes = Buffer.from(request);
  const most = Math.ceil(perSecond * seconds) + 1;
  const latencies = new Float64Array(most);
  let seen = 0;
  let unseen = 0;
  let lastLook = performance.now();
  /** Since the last tick the client was kept from its work: all that it finds now may have waited for it. */
  let blind = false;
  const look = (): number => {
    const now = performance.now();
    blind ||= now - lastLook > longestLookMs;
    lastLook = now;
    return now;
  };

  const open = (): Promise<{ socket: Socket; ask: (now: number) => void }> =>
    new Promise((resolve, reject) => {
      const sent = new Float64Array(mostUnderWay);
      let asked = 0;
      let answered = 0;
      let matched = 0;
      const hear = (length: number, buffer: Uint8Array): boolean => {
        const now = look();
        for (let i = 0; i < length; i++) {
          matched = buffer[i] === end[matched] ? matched + 1 : buffer[i] === end[0] ? 1 : 0;
          if (matched < end.length) continue;
          matched = 0;
          if (blind) unseen += 1;
          else latencies[seen++] = (now - (sent[answered % mostUnderWay] ?? now)) * 1000;
          answered += 1;
        }
        return true;
      };
      const socket = connect(
        {
          port,
          host: '127.0.0.1',
          noDelay: true,
          onread: { buffer: Buffer.alloc(65_536), callback: hear },
        },
        () =>
          resolve({
            socket,
            ask: (now) => {
              if (asked - answered >= mostUnderWay)
                throw new FellBehind(`port ${port} has fallen far behind`);
              sent[asked++ % mostUnderWay] = now;
              socket.write(bytes);
            },
          }),
      );
      socket.on('error', reject);
    });
  const lanes = await Promise.all(Array.from({ length: connections }, open));

  const finish = performance.now() + seconds * 1000;
  const every = 1000 / perSecond;
  let next = performance.now();
  let turn = 0;
  /** Asks for what is due; false once there is no more to ask or to wait for. */
  const tick = (): boolean => {
    const now = look();
    if (blind) next = now;
    blind = false;
    for (; next <= now && next < finish; next += every) lanes[turn++ % lanes.length]?.ask(now);
    return now < finish || (seen + unseen < turn && now < finish + longestWaitMs);
  };
  try {
    while (tick()) await new Promise((resolve) => setImmediate(resolve));
  } finally {
    for (const { socket } of lanes) socket.destroy();
  }
  if (seen + unseen < turn)
    throw new FellBehind(`port ${port} left ${turn - seen - unseen} requests unanswered`);
  return {
    latencies: Array.from(latencies.subarray(0, seen)).sort((a, b) => a - b),
    unseen: unseen / Math.max(1, seen + unseen),
  };
};

/** The value below which a share of a sorted list lies. */
export const quantile = (sorted: readonly number[], share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? NaN;
