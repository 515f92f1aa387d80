import type { Socket } from 'node:net';
import { connect } from 'node:net';

/**
 * Asks at a fixed rate over kept connections and measures from the moment a request was due, so that a server that
 * falls behind cannot hide it. Gives the latencies in microseconds, sorted.
 */
export const askAtRate = async (
  port: number,
  request: string,
  perSecond: number,
  seconds: number,
  connections = 16,
): Promise<number[]> => {
  const bytes = Buffer.from(request);
  const latencies: number[] = [];
  const sockets = await Promise.all(
    Array.from(
      { length: connections },
      () =>
        new Promise<{ socket: Socket; due: number[] }>((resolve, reject) => {
          const due: number[] = [];
          const socket = connect({ port, host: '127.0.0.1', noDelay: true }, () => resolve({ socket, due }));
          let rest = '';
          socket.setEncoding('latin1').on('data', (text: string) => {
            const now = performance.now();
            const pieces = (rest + text).split('\r\n\r\n');
            rest = pieces.pop() ?? '';
            for (let i = 0; i < pieces.length; i++) latencies.push((now - (due.shift() ?? now)) * 1000);
          });
          socket.on('error', reject);
        }),
    ),
  );
  const start = performance.now();
  const end = start + seconds * 1000;
  let sent = 0;
  await new Promise<void>((resolve) => {
    const tick = () => {
      const now = performance.now();
      for (
        let next = start + (sent * 1000) / perSecond;
        next <= now && next < end;
        next = start + (sent * 1000) / perSecond
      ) {
        const lane = sockets[sent % sockets.length];
        sent += 1;
        lane?.due.push(next);
        lane?.socket.write(bytes);
      }
      if (now < end) setImmediate(tick);
      else setTimeout(resolve, 200);
    };
    tick();
  });
  for (const { socket } of sockets) socket.destroy();
  return latencies.sort((a, b) => a - b);
};

/** The value below which a share of a sorted list lies. */
export const quantile = (sorted: readonly number[], share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? NaN;
