import type { AskLogs, LogFile, LogReading, LogReport } from '#core/visits';
import { logPieceBytes, sendLogs } from '#core/visits';
import { key } from './server.ts';

const inPieces = async function* (file: File): AsyncGenerator<Uint8Array> {
  // An empty file is sent too: what is wrong with it is said.
  for (let at = 0; at === 0 || at < file.size; at += logPieceBytes)
    yield new Uint8Array(await file.slice(at, at + logPieceBytes).arrayBuffer());
};
const logFiles = function* (files: readonly File[]): Generator<LogFile> {
  for (const file of files) yield { name: file.name.slice(0, 300), pieces: inPieces(file) };
};

/**
 * Has the server read access logs; yields what came of them so far.
 *
 * @param signal ends the reading; what was brought in by then stays
 * @throws Error with a sentence where the server does not answer or refuses
 */
export const readAccessLogs = (
  files: readonly File[],
  reading: Omit<LogReading, 'files'>,
  signal: AbortSignal,
): AsyncGenerator<{ readonly report: LogReport; readonly sent: number; readonly isWhole: boolean }> => {
  const ask: AskLogs = async (path, body) => {
    const isPiece = body instanceof Uint8Array;
    const response = await fetch(`/api/access-logs${path}`, {
      method: 'POST',
      headers: {
        Authorization: `Bearer ${key.value}`,
        'Content-Type': isPiece ? 'application/octet-stream' : 'application/json',
      },
      body: isPiece ? new Uint8Array(body) : JSON.stringify(body),
      // What begins and what stops a reading is short, and is to arrive: else the server would wait for what never comes.
      signal: path === '' || path.endsWith('/stop') ? null : signal,
    }).catch((error: unknown) => {
      if (signal.aborted) throw error;
      throw new Error('The server does not answer. Try again once it does: what was brought in is known.');
    });
    const answer: unknown = await response.json().catch(() => ({}));
    if (response.ok) return answer;
    const { detail } = answer as { detail?: unknown }; // as problems are told (RFC 9457)
    throw new Error(typeof detail === 'string' ? detail : `The server answered ${response.status}.`);
  };
  return sendLogs(ask, { ...reading, files: files.length }, logFiles(files));
};
