import type { ErrorRequestHandler } from 'express';
import express from 'express';
import * as v from 'valibot';
import type { TracedHop } from '#core/anatomy';
import { changesPerCall, changeSchema, check } from '#core/catalogue';
import type { Feed } from '../feed/index.ts';
import type { Bounds } from '../trace/index.ts';
import { askPicture, outcomeOf, traceSteps } from '../trace/index.ts';
import type { Journal } from '../journal/index.ts';
import type { Mails } from '../mails.ts';
import type { Stray } from '../wire/strays.ts';
import { checkDomain } from './domainCheck.ts';
import { needKey, sameOrigin } from './guard.ts';
import { sendProblem } from './problem.ts';
import { sampleBody, sendSample } from './sample.ts';

export interface ApiParts {
  readonly key: string;
  readonly origins: ReadonlySet<string>;
  readonly feed: Feed;
  readonly journal: Journal;
  readonly mails: Mails;
  readonly port: number;
  /** What a link domain answers to tell that it is this server. */
  readonly checkToken: string;
  readonly testToken: string;
  /** What a sample postback carries, so that it is no conversion. */
  readonly sampleToken: string;
  /** The newest requests that looked like postbacks and could not be taken. */
  readonly newestStrays: () => Promise<readonly Stray[]>;
  /** Where the tracer may go. */
  readonly bounds: Bounds;
  readonly now: () => number;
  readonly log: (message: string, detail: object) => void;
}

const changesBody = v.strictObject({
  changes: v.pipe(
    v.array(changeSchema),
    v.maxLength(changesPerCall, `At most ${changesPerCall} changes a call.`),
  ),
});

const traceBody = v.strictObject({
  url: v.pipe(v.string(), v.maxLength(8000)),
  toOrder: v.optional(v.boolean(), false),
  /** The link that is traced; empty for an address that is no link's yet. */
  link: v.optional(v.pipe(v.string(), v.maxLength(60)), ''),
});

const number = (value: unknown): number | undefined =>
  typeof value === 'string' && /^\d{1,15}$/.test(value) ? Number(value) : undefined;

const mostBody = 4 * 1024 * 1024;
const tooLong = (response: express.Response) =>
  sendProblem(response, 413, 'Body too long', 'Send fewer changes a call; 4 MB are the most.');

/** Refuses a body announced as too long at once, instead of reading it to its end first. */
const shortBody: express.RequestHandler = (request, response, next) => {
  if (Number(request.get('content-length') ?? 0) <= mostBody) next();
  else {
    response.set('Connection', 'close');
    tooLong(response);
  }
};

/** Most bytes a reader of the live stream may lag behind before it is let go; it then asks again from where it was. */
const mostLag = 8 * 1024 * 1024;

/** The admin API under `/api`. */
export const makeApi = ({
  key,
  origins,
  feed,
  journal,
  mails,
  port,
  checkToken,
  testToken,
  sampleToken,
  newestStrays,
  bounds,
  now,
  log,
}: ApiParts): express.Router => {
  const api = express.Router();
  const live = new Set<express.Response>();

  api.get('/health', (_request, response) => {
    const ok = journal.failure === undefined;
    response.json({
      ok,
      links: feed.table.links.size,
      edition: feed.edition,
      seq: journal.seq,
      ...(ok ? {} : { problem: 'The server cannot write its journal. Is its disk full?' }),
    });
  });

  api.use(sameOrigin(origins), needKey(key));

  api.get('/about', (_request, response) => {
    response.json({ journal: journal.identity, testToken });
  });

  api.post('/changes', shortBody, express.json({ limit: mostBody }), async (request, response) => {
    const body = check(changesBody, request.body);
    if (!body.ok) {
      sendProblem(response, 400, 'Not a list of changes', body.problems[0]?.message ?? '', {
        problems: body.problems,
      });
      return;
    }
    try {
      const answer = await feed.apply(body.value.changes);
      if (answer.refused.some((refused) => refused.theirs))
        sendProblem(response, 409, 'Changed by somebody else', 'Choose which version stays.', answer);
      else response.json(answer);
    } catch (error) {
      log('changes could not be kept', { error: String(error) });
      response.set('Retry-After', '5');
      sendProblem(
        response,
        503,
        'Not kept',
        'The server cannot write to its disk. Nothing of this call took place.',
      );
    }
  });

  api.get('/changes', async (request, response) => {
    const after = number(request.query['after'] ?? '0');
    if (after === undefined)
      sendProblem(response, 400, 'Bad edition', '"after" is the number of an edition.');
    else response.json(await feed.read(after));
  });

  api.get('/journal', (request, response) => {
    const after = number(request.query['after'] ?? '0');
    if (after === undefined) {
      sendProblem(response, 400, 'Bad place', '"after" is the seq of a record.');
      return;
    }
    response.set({
      'Content-Type': 'application/x-ndjson',
      'Fernhop-Journal': journal.identity,
      'Fernhop-Seq': String(journal.seq),
    });
    journal
      .read(after)
      .on('error', (error) => {
        log('the journal could not be read', { error: String(error) });
        response.destroy();
      })
      .pipe(response);
  });

  api.get('/live', (_request, response) => {
    response.set({
      'Content-Type': 'application/x-ndjson',
      'Fernhop-Journal': journal.identity,
      'Fernhop-Seq': String(journal.seq),
    });
    response.flushHeaders();
    live.add(response);
    const beat = setInterval(() => response.write('\n'), 15_000);
    const stop = journal.listen(({ lines }) => {
      if (response.writableLength > mostLag) response.destroy();
      else response.write(lines);
    });
    response.on('close', () => {
      clearInterval(beat);
      stop();
      live.delete(response);
    });
  });

  api.post('/domain-check', shortBody, express.json({ limit: '16kb' }), async (request, response) => {
    const body = check(v.strictObject({ host: v.string() }), request.body);
    if (!body.ok || !feed.table.hosts.has(body.value.host)) {
      sendProblem(response, 400, 'Not one of your domains', 'Add the domain first; then it can be checked.');
      return;
    }
    response.json(await checkDomain(body.value.host, port, checkToken));
  });

  api.post('/sample', shortBody, express.json({ limit: '64kb' }), async (request, response) => {
    const body = check(sampleBody, request.body);
    const network = body.ok ? feed.table.networks.get(body.value.network) : undefined;
    if (!body.ok || !network || !feed.table.hosts.has(body.value.host)) {
      sendProblem(
        response,
        400,
        'No such sample',
        body.ok ? 'Name a network and a domain of yours.' : (body.problems[0]?.message ?? ''),
      );
      return;
    }
    response.json(await sendSample(body.value, network.key, { port, token: sampleToken }));
  });

  api.get('/strays', async (_request, response) => {
    response.json({ strays: await newestStrays() });
  });

  api.get('/mails', async (_request, response) => {
    response.json({ mails: await mails.all() });
  });
  api.delete('/mails', async (request, response) => {
    const { link } = request.query;
    response.json({ erased: await mails.erase(typeof link === 'string' ? link : undefined) });
  });

  api.post('/trace', shortBody, express.json({ limit: '16kb' }), async (request, response) => {
    const body = check(traceBody, request.body);
    if (!body.ok || !URL.canParse(body.value.url)) {
      sendProblem(response, 400, 'No address', 'Send {"url": "https://…"} with the address to trace.');
      return;
    }
    const url = new URL(body.value.url);
    // A trace of a link of ours is a test: it is not counted.
    if (feed.table.hosts.has(url.hostname)) url.search += `${url.search === '' ? '' : '&'}test=${testToken}`;
    const stop = new AbortController();
    response.on('close', () => stop.abort());
    response.set('Content-Type', 'application/x-ndjson');
    const { link, toOrder } = body.value;
    const hops: TracedHop[] = [];
    for await (const step of traceSteps(url.href, bounds, { signal: stop.signal, toOrder })) {
      response.write(`${JSON.stringify(step)}\n`);
      if (step.kind === 'hop') hops.push(step);
      else journal.append({ kind: 'trace', at: now(), by: 'person', link, ...outcomeOf({ ...step, hops }) });
    }
    response.end();
  });

  api.post('/picture', shortBody, express.json({ limit: '16kb' }), async (request, response) => {
    const body = check(v.strictObject({ url: v.pipe(v.string(), v.maxLength(2000)) }), request.body);
    const picture = body.ok ? await askPicture(body.value.url, bounds) : 'Send {"url": "https://…"}.';
    if (typeof picture === 'string') sendProblem(response, 422, 'No picture', picture);
    else
      response
        .set({ 'Content-Type': picture.type, 'Content-Security-Policy': "default-src 'none'; sandbox" })
        .send(picture.bytes);
  });

  api.use((_request, response) =>
    sendProblem(response, 404, 'No such call', 'See docs/server.md for the calls there are.'),
  );

  const failed: ErrorRequestHandler = (error: unknown, _request, response, _next) => {
    const status =
      typeof error === 'object' && error !== null && 'status' in error && typeof error.status === 'number'
        ? error.status
        : 500;
    if (status >= 500) log('a call failed', { error: String(error) });
    if (status === 413) tooLong(response);
    else if (status < 500) sendProblem(response, status, 'Body not readable', 'Send well-formed JSON.');
    else sendProblem(response, 500, 'Our fault', 'The call failed in the server. Its log says where.');
  };
  api.use(failed);
  return api;
};
