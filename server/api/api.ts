import { pipeline } from 'node:stream';
import type { ErrorRequestHandler } from 'express';
import express from 'express';
import * as v from 'valibot';
import type { TracedHop } from '#core/link-parts';
import type { ServerStory } from '#core/catalogue';
import { changeSchema, changesPerCall, check, firstProblem, signatureOf } from '#core/catalogue';
import type { Feed } from '../feed/index.ts';
import type { AdminKey } from '../adminKey.ts';
import type { Audit } from '../audit.ts';
import type { AccessLogs } from '../accessLogs/index.ts';
import type { AnswersThread } from '../answers/index.ts';
import type { Columns } from '../columns/index.ts';
import type { DiskRoom } from '../diskRoom.ts';
import type { Journal } from '../journal/index.ts';
import { GivenBack } from '../journal/index.ts';
import { givenBackKinds, givenBackPerCall, isGivenBackKind, journalRecord } from '#core/visits';
import type { WaitingList } from '../waitingList.ts';
import type { Bounds, Pages } from '../pages/index.ts';
import { outcomeOf, sampleBody } from '../pages/index.ts';
import type { Scripts } from '../script/index.ts';
import type { Admission } from '../http/admission.ts';
import type { Peers } from '../http/peer.ts';
import type { Rejected } from '../http/rejected.ts';
import { accessLogRoutes } from './accessLogs.ts';
import { answerRoutes } from './answers.ts';
import { findFaults } from './faults.ts';
import { KeyGuard, sameOrigin } from './guard.ts';
import { sendProblem } from './problem.ts';

export interface ApiParts {
  readonly key: AdminKey;
  readonly origins: ReadonlySet<string>;
  readonly feed: Feed;
  readonly journal: Journal;
  readonly columns: Columns;
  readonly answers: AnswersThread;
  readonly accessLogs: AccessLogs;
  readonly story: ServerStory;
  readonly waitingList: WaitingList;
  readonly audit: Audit;
  readonly admission: Admission;
  readonly room: DiskRoom;
  readonly pages: Pages;
  readonly scripts: Scripts;
  readonly peers: Peers;
  readonly port: number;
  /** The application's own host. */
  readonly appHost: string;
  /** What a link domain answers to tell that it is this server. */
  readonly checkToken: string;
  readonly testToken: string;
  /** What a sample postback carries, so that it is no conversion. */
  readonly sampleToken: string;
  readonly rejected: Rejected;
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

const givenBackBody = v.strictObject({
  records: v.pipe(
    v.array(
      v.pipe(
        journalRecord,
        v.guard(isGivenBackKind, `Only these can be given back: ${givenBackKinds.join(', ')}.`),
      ),
    ),
    v.maxLength(givenBackPerCall, `At most ${givenBackPerCall} records a call.`),
  ),
  by: v.pipe(v.string(), v.maxLength(80)),
});

const crawlBody = v.strictObject({ site: v.pipe(v.string(), v.regex(/^https?:/i), v.maxLength(2000)) });

const traceBody = v.strictObject({
  url: v.pipe(v.string(), v.maxLength(8000)),
  toOrder: v.optional(v.boolean(), false),
  /** Ask as a robot that draws previews of links. */
  asPreview: v.optional(v.boolean(), false),
  /** The link that is traced; empty for an address that is no link's yet. */
  link: v.optional(v.pipe(v.string(), v.maxLength(60)), ''),
});

const count = v.pipe(v.string(), v.regex(/^\d{1,15}$/, 'is a whole number'), v.transform(Number));
/** What may stand after `?`: each once, and nothing else. */
const noQuery = v.strictObject({});
const afterQuery = v.strictObject({ after: v.optional(count, '0') });
const sealQuery = v.strictObject({ hash: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/)) });
const waitingListQuery = v.strictObject({
  link: v.optional(v.pipe(v.string(), v.regex(/^lnk_[a-z0-9]{1,40}$/))),
});

const placeScriptQuery = v.strictObject({ host: v.pipe(v.string(), v.maxLength(300)) });

const exportBody = v.strictObject({
  /** What left the browser, as a short sentence. */
  what: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
  by: v.pipe(v.string(), v.maxLength(80)),
});

const mostBody = 16 * 1024 * 1024;
const tooLong = (response: express.Response) =>
  sendProblem(response, 413, 'Body too long', 'Send fewer changes a call; 16 MB are the most.');

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
  columns,
  answers,
  accessLogs,
  story,
  waitingList,
  audit,
  admission,
  room,
  pages,
  scripts,
  peers,
  port,
  appHost,
  checkToken,
  testToken,
  sampleToken,
  rejected,
  bounds,
  now,
  log,
}: ApiParts): express.Router => {
  const api = express.Router();
  const live = new Set<express.Response>();
  const givenBack = new GivenBack(journal);
  const guard = new KeyGuard(key, { peers, audit, now });
  /** Tells which server answers, and in which generation of its data: a browser believes nobody else. */
  const signature = signatureOf(story);
  const sign: express.RequestHandler = (_request, response, next) => {
    response.set('Fernhop-Server', signature);
    next();
  };
  /** Refuses what was meant for another server, or for a time before an older folder was put back here. */
  const meantForUs: express.RequestHandler = (request, response, next) => {
    const meant = request.get('fernhop-server');
    if (meant === undefined || meant === signature) next();
    else
      sendProblem(
        response,
        412,
        'Meant for another server',
        'This is not the server it was meant for, or it was started anew since. Nothing of this call took place.',
      );
  };

  /** Checks what stands after `?`; answers with what is wrong with it, and gives nothing then. */
  const queryOf = <S extends v.GenericSchema>(
    schema: S,
    request: express.Request,
    response: express.Response,
  ): v.InferOutput<S> | undefined => {
    const query = check(schema, request.query);
    if (query.ok) return query.value;
    const [problem] = query.problems;
    sendProblem(
      response,
      400,
      'Bad parameter',
      `"${problem?.path ?? ''}" cannot be read: give each parameter once, as docs/server.md has it.`,
    );
    return undefined;
  };

  api.get('/health', (request, response) => {
    const ok = journal.failure === undefined && !room.isLow;
    // Whoever has no key learns no more than a load balancer has to.
    const judged = guard.judge(request);
    if (judged !== 'right') {
      const answer = () => void response.json({ ok });
      if (judged === 'none') answer();
      else guard.answerWrong(request, response, answer);
      return;
    }
    const problem = journal.failure
      ? 'The server cannot write its journal. Is its disk full?'
      : 'The disk of the server is nearly full: its last room is kept for postbacks, and hops wait in memory. Free some.';
    response.set('Fernhop-Server', signature).json({
      ok,
      links: feed.table.links.size,
      version: feed.version,
      seq: journal.seq,
      ...(journal.newestSeal && { seal: journal.newestSeal }),
      ...(journal.damages.length > 0 && { damaged: journal.damages.length }),
      ...(ok ? {} : { problem }),
    });
  });

  // A web server in front asks this before it gets a certificate; it has no key, and learns no more than yes or no.
  api.get('/certificate-for', (request, response) => {
    const { domain } = request.query;
    const host = typeof domain === 'string' ? domain.toLowerCase() : '';
    const isOurs = host === appHost || feed.table.hosts.has(host);
    response.status(peers.isNeighbour(request) && isOurs ? 200 : 404).end();
  });

  api.use(sameOrigin(origins), guard.need, sign);

  api.get('/about', (_request, response) => {
    response.json({
      ...story,
      testToken,
      keyIsGiven: key.isGiven,
      damages: journal.damages,
      ...(admission.unnamedProxy && { unnamedProxy: admission.unnamedProxy }),
    });
  });

  api.post('/key', shortBody, express.json({ limit: '1kb' }), (request, response) => {
    if (!check(v.strictObject({ renew: v.literal(true) }), request.body).ok)
      sendProblem(response, 400, 'Not asked to', 'Send {"renew": true} for a new key.');
    else if (key.isGiven)
      sendProblem(
        response,
        409,
        'Given from outside',
        'The key is set by FERNHOP_KEY: change it there and start the server anew.',
      );
    else {
      const renewed = key.renew();
      audit.note('new key', 'The key of the server was renewed; the one before no longer counts.', now());
      for (const reader of live) reader.destroy();
      response.json({ key: renewed });
    }
  });

  api.post('/exported', shortBody, express.json({ limit: '4kb' }), (request, response) => {
    const body = check(exportBody, request.body);
    if (!body.ok) {
      sendProblem(response, 400, 'Not an export', firstProblem(body));
      return;
    }
    const { what, by } = body.value;
    audit.note('export', `${by === '' ? 'Somebody' : by} saved ${what}.`, now());
    response.json({ ok: true });
  });

  api.get('/rolled-up', async (_request, response) => {
    response.json(await journal.rolledUp());
  });

  api.get('/seal', (request, response) => {
    const query = queryOf(sealQuery, request, response);
    if (query) response.json({ known: journal.knowsSeal(query.hash) });
  });
  api.post('/seal', shortBody, express.json({ limit: '1kb' }), async (_request, response) => {
    const seal = await journal.seal();
    response.json(seal ? { seal } : {});
  });

  api.get('/faults', async (_request, response) => {
    response.json({ faults: await findFaults(feed.table) });
  });

  api.post(
    '/changes',
    meantForUs,
    shortBody,
    express.json({ limit: mostBody }),
    async (request, response) => {
      const body = check(changesBody, request.body);
      if (!body.ok) {
        sendProblem(response, 400, 'Not a list of changes', firstProblem(body), {
          problems: body.problems,
        });
        return;
      }
      if (room.isLow) {
        response.set('Retry-After', '60');
        sendProblem(
          response,
          503,
          'Not kept',
          'The disk of the server is nearly full, and its last room is kept for postbacks. Nothing of this call took place.',
        );
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
    },
  );

  api.get('/changes', async (request, response) => {
    const query = queryOf(afterQuery, request, response);
    if (!query) return;
    // A browser that has nothing yet asks the server's journal until it holds its own.
    if (query.after === 0 && columns.parts.length > 0) answers.prepare();
    response.json(await feed.read(query.after));
  });

  api.get('/digest', async (request, response) => {
    if (queryOf(noQuery, request, response)) response.json(await feed.digest());
  });

  api.get('/journal', (request, response) => {
    const query = queryOf(afterQuery, request, response);
    if (!query) return;
    response.set({
      'Content-Type': 'application/x-ndjson',
      'Fernhop-Seq': String(journal.seq),
    });
    // A reader that goes away takes its open files with it.
    pipeline(journal.read(query.after), response, (error) => {
      if (error && !response.writableFinished && !response.closed)
        log('the journal could not be read', { error: String(error) });
    });
  });

  api.use(answerRoutes({ answers, columns }));
  api.use('/access-logs', accessLogRoutes({ accessLogs, table: feed.table, room }));

  api.post(
    '/journal',
    meantForUs,
    shortBody,
    express.json({ limit: mostBody }),
    async (request, response) => {
      const body = check(givenBackBody, request.body);
      if (!body.ok) {
        sendProblem(response, 400, 'Not records of a journal', firstProblem(body));
        return;
      }
      const { records, by } = body.value;
      try {
        const answer = await givenBack.take(records);
        if (answer.taken > 0)
          audit.note(
            'given back',
            `${by === '' ? 'Somebody' : by} gave back ${answer.taken} records that this server had lost.`,
            now(),
          );
        response.json(answer);
      } catch (error) {
        log('what was given back could not be kept', { error: String(error) });
        response.set('Retry-After', '5');
        sendProblem(
          response,
          503,
          'Not kept',
          'The server cannot write to its disk. Send the same again: nothing is written twice.',
        );
      }
    },
  );

  api.get('/live', (_request, response) => {
    response.set({
      'Content-Type': 'application/x-ndjson',
      'Fernhop-Seq': String(journal.seq),
      'Fernhop-Removed': String(journal.removedUntil),
    });
    response.flushHeaders();
    live.add(response);
    const startedWith = key.value;
    const beat = setInterval(() => {
      // Whoever came with a key that was renewed since is let go.
      if (key.value === startedWith) response.write('\n');
      else response.destroy();
    }, 15_000);
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
    response.json(await pages.checkDomain({ host: body.value.host, port, token: checkToken, appHost }));
  });

  api.post('/sample', shortBody, express.json({ limit: '64kb' }), async (request, response) => {
    const body = check(sampleBody, request.body);
    const network = body.ok ? feed.table.networks.get(body.value.network) : undefined;
    if (!body.ok || !network || !feed.table.hosts.has(body.value.host)) {
      sendProblem(
        response,
        400,
        'No such sample',
        body.ok ? 'Name a network and a domain of yours.' : firstProblem(body),
      );
      return;
    }
    response.json(await pages.sendSample(body.value, network.key, { port, token: sampleToken }));
  });

  api.get('/place-script', async (request, response) => {
    const query = queryOf(placeScriptQuery, request, response);
    if (!query) return;
    const script = await scripts.newest(query.host);
    if (!script) {
      sendProblem(response, 404, 'No such domain', 'Name the host of a link domain of yours.');
      return;
    }
    const { text, brotli, links, left } = script;
    response.json({ text, bytes: brotli.length, links, left });
  });

  api.get('/rejected', async (_request, response) => {
    response.json({ rejected: await rejected.newest() });
  });

  api.get('/waiting-list', async (request, response) => {
    if (queryOf(noQuery, request, response)) response.json({ waitingList: await waitingList.all() });
  });
  api.delete('/waiting-list', async (request, response) => {
    const query = queryOf(waitingListQuery, request, response);
    if (!query) return;
    const erased = await waitingList.erase(now(), query.link);
    audit.note(
      'erasure',
      `${erased} mail addresses ${query.link === undefined ? 'of all links' : `of ${query.link}`} were erased.`,
      now(),
    );
    response.json({ erased });
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
    const { link, toOrder, asPreview } = body.value;
    const hops: TracedHop[] = [];
    for await (const step of pages.traceSteps(url.href, bounds, {
      signal: stop.signal,
      toOrder,
      asPreview,
    })) {
      response.write(`${JSON.stringify(step)}\n`);
      if (step.kind === 'hop') hops.push(step);
      // What such a robot sees says nothing of where visitors arrive.
      else if (!asPreview)
        journal.append({ kind: 'trace', at: now(), by: 'person', link, ...outcomeOf({ ...step, hops }) });
    }
    response.end();
  });

  let crawls = 0;
  api.post('/crawl', shortBody, express.json({ limit: '16kb' }), async (request, response) => {
    const body = check(crawlBody, request.body);
    if (!body.ok || !URL.canParse(body.value.site)) {
      sendProblem(response, 400, 'No address', 'Send {"site": "https://…"} with the address of your site.');
      return;
    }
    if (crawls > 0) {
      sendProblem(
        response,
        409,
        'A site is being read',
        'One site is read at a time. Wait for it, or stop it.',
      );
      return;
    }
    const site = new URL(body.value.site);
    const stop = new AbortController();
    response.on('close', () => stop.abort());
    response.set('Content-Type', 'application/x-ndjson');
    const links = [...(feed.table.hosts.get(site.hostname)?.links.keys() ?? [])];
    crawls += 1;
    try {
      for await (const step of pages.crawl({ site: site.href, links, bounds }, stop.signal))
        if (!response.write(`${JSON.stringify(step)}\n`) && !stop.signal.aborted)
          await new Promise<void>((resolve) => {
            response.once('drain', resolve);
            response.once('close', resolve);
          });
    } finally {
      crawls -= 1;
    }
    response.end();
  });

  api.post('/picture', shortBody, express.json({ limit: '16kb' }), async (request, response) => {
    const body = check(v.strictObject({ url: v.pipe(v.string(), v.maxLength(2000)) }), request.body);
    const picture = body.ok ? await pages.picture(body.value.url, bounds) : 'Send {"url": "https://…"}.';
    if (typeof picture === 'string') sendProblem(response, 422, 'No picture', picture);
    else
      response
        .set({ 'Content-Type': picture.type, 'Content-Security-Policy': "default-src 'none'; sandbox" })
        .send(Buffer.from(picture.bytes));
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
