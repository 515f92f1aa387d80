import { isUtf8 } from 'node:buffer';
import type { IncomingMessage } from 'node:http';

/**
 * Reads a request's body.
 *
 * @returns undefined when it is longer than `most` bytes; the rest is then left unread
 */
export const readBytes = (request: IncomingMessage, most: number): Promise<Buffer | undefined> => {
  if (Number(request.headers['content-length'] ?? 0) > most) return Promise.resolve(undefined);
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = [];
    let size = 0;
    request.on('data', (chunk: Buffer) => {
      size += chunk.length;
      // What comes beyond it is let go, so that the sender still hears the answer.
      if (size > most) resolve(undefined);
      else chunks.push(chunk);
    });
    request.on('end', () => resolve(Buffer.concat(chunks)));
    request.on('error', reject);
    request.on('close', () => reject(new Error('The request broke off.')));
  });
};

/** The same as text in UTF-8. */
export const readBody = async (request: IncomingMessage, most: number): Promise<string | undefined> =>
  (await readBytes(request, most))?.toString('utf8');

/**
 * Bytes as text: UTF-8, or Latin-1 where they are none. From the text alone the bytes could then not be told, so they
 * stand beside it in base64.
 */
export const textOf = (bytes: Buffer): { readonly body: string; readonly bytes?: string } =>
  isUtf8(bytes)
    ? { body: bytes.toString('utf8') }
    : { body: bytes.toString('latin1'), bytes: bytes.toString('base64') };
