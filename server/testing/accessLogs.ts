import type { AskLogs, LogFile, LogReading, LogReport } from '#core/visits';
import { sendLogs } from '#core/visits';
import type { ServerAddress } from '../client.ts';

/** Calls the server's API of access logs as the application does. */
export const askLogs =
  ({ port, key }: ServerAddress): AskLogs =>
  async (path, body) => {
    const isPiece = body instanceof Uint8Array;
    const response = await fetch(`http://localhost:${port}/api/access-logs${path}`, {
      method: 'POST',
      headers: {
        Authorization: `Bearer ${key}`,
        Origin: `http://localhost:${port}`,
        'Content-Type': isPiece ? 'application/octet-stream' : 'application/json',
      },
      body: isPiece ? new Uint8Array(body) : JSON.stringify(body),
    });
    const answer: unknown = await response.json();
    if (response.ok) return answer;
    throw new Error(`${response.status} ${JSON.stringify(answer)}`);
  };

/** A file in pieces of so many bytes. */
export const inPieces = (name: string, bytes: Uint8Array, length = 1000): LogFile => ({
  name,
  pieces: Array.from({ length: Math.ceil(bytes.length / length) }, (_, i) =>
    bytes.subarray(i * length, (i + 1) * length),
  ),
});

/** Has a server read logs to their end; gives its last report. */
export const readLogs = async (
  server: ServerAddress,
  files: readonly LogFile[],
  reading: Partial<LogReading> = {},
): Promise<LogReport> => {
  let last: LogReport | undefined;
  const all = { host: '', dryRun: false, files: files.length, by: 'Test', ...reading };
  for await (const { report } of sendLogs(askLogs(server), all, files)) last = report;
  if (!last) throw new Error('There was no report.');
  return last;
};
