import type { IncomingMessage } from 'node:http';

/**
 * Reads a request's body as text.
 *
 * @returns undefined when it is longer than `most` bytes; the rest is then left unread
 */
export const readBody = async (request: IncomingMessage, most: number): Promise<string | undefined> => {
  if (Number(request.headers['content-length'] ?? 0) > most) return undefined;
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request) {
    const bytes = chunk as Buffer; // no encoding is set on requests
    size += bytes.length;
    if (size > most) return undefined;
    chunks.push(bytes);
  }
  return Buffer.concat(chunks).toString('utf8');
};
