import type { Request, RequestHandler, Response } from 'express';
import type { AdminKey } from '../adminKey.ts';
import type { Audit } from '../audit.ts';
import type { Peers } from '../http/peer.ts';
import { MinuteLimit } from '../http/minuteLimit.ts';
import { sendProblem } from './problem.ts';

/** Wrong keys of one address within a minute that are answered at once. */
const quickTries = 5;
/** How long the answer to each one beyond them is held back, in milliseconds. */
const slowMs = 1000;
/** Most answers that are held back at the same time; beyond them they are refused at once. */
const mostHeldBack = 100;

/** Tells right keys from wrong ones, and slows those down by address. */
export class KeyGuard {
  readonly #key: AdminKey;
  readonly #parts: { readonly peers: Peers; readonly audit: Audit; readonly now: () => number };
  readonly #quick = new MinuteLimit(quickTries);
  #heldBack = 0;

  constructor(
    key: AdminKey,
    parts: { readonly peers: Peers; readonly audit: Audit; readonly now: () => number },
  ) {
    this.#key = key;
    this.#parts = parts;
  }

  /** What the bearer key of a call is; `none` is a browser that has none yet. */
  judge(request: Request): 'right' | 'none' | 'wrong' {
    const given = /^Bearer ([\x21-\x7e]+)$/i.exec(request.get('authorization') ?? '')?.[1] ?? '';
    if (given === '') return 'none';
    return this.#key.is(given) ? 'right' : 'wrong';
  }

  /** Answers a call with a wrong key: at once, after a while, or with a refusal where too many are held back. */
  answerWrong(request: Request, response: Response, answer: () => void): void {
    const { peers, audit, now } = this.#parts;
    const at = now();
    audit.note('wrong key', 'A call with a wrong key was refused.', at);
    if (this.#quick.take(peers.address(request), at)) answer();
    else if (this.#heldBack >= mostHeldBack) {
      response.set('Retry-After', '60');
      sendProblem(response, 429, 'Too many wrong keys', 'Wait a minute, then send the right one.');
    } else {
      this.#heldBack += 1;
      setTimeout(() => {
        this.#heldBack -= 1;
        answer();
      }, slowMs);
    }
  }

  /** Lets a call pass that carries the key. */
  readonly need: RequestHandler = (request, response, next) => {
    const refuse = () => {
      response.set('WWW-Authenticate', 'Bearer realm="fernhop"');
      sendProblem(
        response,
        401,
        'Key needed',
        'Send the key of this server as "Authorization: Bearer KEY". npm run key shows it.',
      );
    };
    const judged = this.judge(request);
    if (judged === 'right') next();
    else if (judged === 'none') refuse();
    else this.answerWrong(request, response, refuse);
  };
}

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
    // What is no form's type cannot come from a page of somebody else without being asked for first (Fetch, CORS-safelisted types).
    const type = request.path.startsWith('/access-logs/')
      ? /^application\/(?:json|octet-stream)\s*(?:;|$)/i
      : /^application\/json\s*(?:;|$)/i;
    if (writes && !type.test(request.get('content-type') ?? '')) {
      sendProblem(response, 415, 'JSON needed', 'Send the body as application/json.');
      return;
    }
    next();
  };
