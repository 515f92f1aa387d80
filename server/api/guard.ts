import { createHash, timingSafeEqual } from 'node:crypto';
import type { RequestHandler } from 'express';
import { sendProblem } from './problem.ts';

const digest = (text: string) => createHash('sha256').update(text).digest();

/** Lets a call pass that carries the bearer key; the comparison takes the same time whatever was sent. */
export const needKey = (key: string): RequestHandler => {
  const wanted = digest(key);
  return (request, response, next) => {
    const given = /^Bearer ([\x21-\x7e]+)$/i.exec(request.get('authorization') ?? '')?.[1] ?? '';
    if (timingSafeEqual(digest(given), wanted)) next();
    else {
      response.set('WWW-Authenticate', 'Bearer realm="fernhop"');
      sendProblem(
        response,
        401,
        'Key needed',
        'Send the key printed at start as "Authorization: Bearer KEY".',
      );
    }
  };
};

/** Lets a call pass from the application's own pages: a foreign Origin never, and a write only with a good one. */
export const sameOrigin =
  (origins: ReadonlySet<string>): RequestHandler =>
  (request, response, next) => {
    const origin = request.get('origin');
    const writes = request.method !== 'GET' && request.method !== 'HEAD';
    if (origin === undefined ? writes : !origins.has(origin)) {
      sendProblem(
        response,
        403,
        'Wrong origin',
        'Calls come from the application’s own pages, with their Origin.',
      );
      return;
    }
    if (writes && !/^application\/json\s*(?:;|$)/i.test(request.get('content-type') ?? '')) {
      sendProblem(response, 415, 'JSON needed', 'Send the body as application/json.');
      return;
    }
    next();
  };
