import type { ServerResponse } from 'node:http';

/** Ends a request outside the application with a short plain text. */
export const refuse = (
  response: ServerResponse,
  status: number,
  text: string,
  headers: Readonly<Record<string, string>> = {},
): void => {
  response.writeHead(status, {
    'Content-Type': 'text/plain; charset=utf-8',
    'Cache-Control': 'no-store',
    'X-Content-Type-Options': 'nosniff',
    'X-Robots-Tag': 'noindex, nofollow',
    ...headers,
  });
  response.end(`${text}\n`);
};
