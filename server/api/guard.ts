import type { RequestHandler } from 'express';
import type { AdminKey } from '../adminKey.ts';
import type { Audit } from '../audit.ts';
import type { Peers } from '../wire/peer.ts';
import { MinuteLimit } from '../wire/minuteLimit.ts';
import { sendProblem } from './problem.ts';

/** Wrong keys of one address within a minute that are answered at once. */
const quickTries = 5;
/** How long the answer to each one beyond them is held back, in milliseconds. */
const slowMs = 1000;
/** Most answers that are held back at the same time; beyond them they are refused at once. */
const mostHeldBack = 100;

/** The bearer key a call carries; empty where it carries none. */
export const bearerOf = (authorization: string | undefined): string =>
  /^Bearer ([\x21-\x7e]+)$/i.exec(authorization ?? '')?.[1] ?? '';

/** Lets a call pass that carries the key. Wrong ones are slowed down by address, and told of. */
export const needKey = (
  key: AdminKey,
  { peers, audit, now }: { readonly peers: Peers; readonly audit: Audit; readonly now: () => number },
): RequestHandler => {
  const quick = new MinuteLimit(quickTries);
  let heldBack = 0;
  return (request, response, next) => {
    const given = bearerOf(request.get('authorization'));
    if (key.is(given)) {
      next();
      return;
    }
    const refuse = () => {
      response.set('WWW-Authenticate', 'Bearer realm="fernhop"');
      sendProblem(
        response,
        401,
        'Key needed',
        'Send the key of this server as "Authorization: Bearer KEY". npm run key shows it.',
      );
    };
    const at = now();
    // A call without any is one of a browser that has none yet.
    if (given === '') {
      refuse();
      return;
    }
    audit.note('wrong key', 'A call with a wrong key was refused.', at);
    if (quick.take(peers.address(request), at)) refuse();
    else if (heldBack >= mostHeldBack) {
      response.set('Retry-After', '60');
      sendProblem(response, 429, 'Too many wrong keys', 'Wait a minute, then send the right one.');
    } else {
      heldBack += 1;
      setTimeout(() => {
        heldBack -= 1;
        refuse();
      }, slowMs);
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
