import { createHmac, randomBytes } from 'node:crypto';
import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import { Socket } from 'node:net';
import { join } from 'node:path';
import type { Duplex } from 'node:stream';
import type { StoredChange } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { JournalDraft } from '#core/visits';
import { makeApi } from './api/api.ts';
import type { Config } from './config.ts';
import { AdminKey } from './adminKey.ts';
import { Audit } from './audit.ts';
import { lockFolder, serverSecret } from './dataDir.ts';
import { bringToFormat } from './migrate.ts';
import { finishRestore } from './rescue/index.ts';
import { beginGeneration } from './generations.ts';
import { DiskRoom } from './diskRoom.ts';
import type { LinkTable, TableLink } from './feed/index.ts';
import { Feed } from './feed/index.ts';
import { Journal } from './journal/index.ts';
import { startKeeping } from './keeping/index.ts';
import { WaitingList } from './waitingList.ts';
import { AccessLogs } from './accessLogs/index.ts';
import { AnswersThread } from './answers/index.ts';
import { Columns } from './columns/index.ts';
import { Pages } from './pages/index.ts';
import { byItself, startMovingWeights } from './movedWeights.ts';
import { startNightlyCheck } from './nightlyCheck.ts';
import { Scripts } from './script/index.ts';
import { makeSite } from './site.ts';
import { Admission } from './http/admission.ts';
import { openCountries } from './http/country.ts';
import { openHosting } from './http/hosting.ts';
import { readHeaders } from './http/headers.ts';
import { makeHop, onlyHttps } from './http/hop.ts';
import { makeLinkDomain } from './http/linkDomain.ts';
import { PageClicks } from './http/pageClicks.ts';
import { PageReadings } from './http/pageReadings.ts';
import { makePeers } from './http/peer.ts';
import { makePixel, makePostback } from './http/postback.ts';
import { refuse } from './http/refuse.ts';
import { makeRejected } from './http/rejected.ts';
import type { Reserved } from './http/reserved.ts';
import { pathOf, reservedAt, withoutOrigin } from './http/reserved.ts';
import { makeSecondPages } from './http/secondPage.ts';
import { VisitorsToday } from './http/visitorsToday.ts';
import { Visitors } from './http/visitor.ts';

export interface Fernhop {
  readonly server: Server;
  readonly key: AdminKey;
  readonly links: number;
  /** True when nobody ever made anything here. */
  readonly isNew: boolean;
  /** Stops taking requests, writes what waits, lets the folder go. */
  close(): Promise<void>;
}

const slash = 47;
const dayMs = 86_400_000;
/** Most connections at a time; those beyond are closed at once. */
const mostConnections = 10_000;
/** How often it is looked whether more of the journal can be had as columns. */
const columnsEveryMs = 10 * 60_000;

/** The address of a connection whose request no parser could take. */
const addressOf = (socket: Duplex): string => (socket instanceof Socket ? (socket.remoteAddress ?? '') : '');

/** Host name of a Host header in lower case, without its port. */
const hostName = (host: string): string => {
  const colon = host.startsWith('[') ? host.indexOf(']:') + 1 : host.indexOf(':');
  return (colon > 0 ? host.slice(0, colon) : host).toLowerCase();
};

const changeDraft = (
  { version, kind, record, revision, by, step, value }: StoredChange,
  at: number,
): JournalDraft => ({
  kind: 'change',
  at,
  version,
  of: kind,
  record,
  revision,
  by,
  ...(step !== undefined && { step }),
  // A network's record holds its postback key, and keys stay out of the journal.
  value: value !== null && (kind === 'link' || kind === 'domain') ? value : null,
});

/**
 * Starts everything but listening: takes the data folder, repairs and opens feed and journal, builds the link table.
 *
 * @throws Error with one clear line when the folder is taken or cannot be used
 */
export const makeFernhop = async (
  config: Config,
  log: (message: string, detail: object) => void,
  now: () => number = Date.now,
): Promise<Fernhop> => {
  const unlock = await lockFolder(config.dataDir);
  try {
    if (await finishRestore(config.dataDir)) log('a restore that was interrupted was carried through', {});
    await bringToFormat(config.dataDir, { now, log });
    return await build(config, log, now, unlock);
  } catch (error) {
    unlock();
    throw error;
  }
};

/** Reads today's visitors and page clicks from the journal, so that a restart makes nobody new and forgets no page. */
const remember = async (
  { visitorsToday, clicks }: { readonly visitorsToday: VisitorsToday; readonly clicks: PageClicks },
  { hosts }: LinkTable,
  journal: Journal,
  at: number,
): Promise<void> => {
  const isToday = (time: number) => Math.floor(time / dayMs) === Math.floor(at / dayMs);
  for await (const record of journal.today(at)) {
    // What was given back or brought in from a log lies among today's records and is not of today.
    if (record.kind !== 'hop' || record.prefetch || !isToday(record.at)) continue;
    const host = hosts.get(record.host);
    if (host) visitorsToday.wasHere(host.domain.id, record.visitor, record.at);
    if (record.status === 200 && !record.test)
      clicks.add(record.click, { link: record.link, source: record.source });
  }
};

const build = async (
  config: Config,
  log: (message: string, detail: object) => void,
  now: () => number,
  unlock: () => void,
): Promise<Fernhop> => {
  const key = new AdminKey(config.dataDir, config.key);
  const secret = serverSecret(config.dataDir);
  const tokenFor = (purpose: string, digits: number) =>
    createHmac('sha256', secret).update(purpose).digest('hex').slice(0, digits);
  const testToken = tokenFor('test hop', 16);
  const sampleToken = tokenFor('sample postback', 32);
  const checkToken = tokenFor('domain check', 32);
  const appHosts = new Set(['localhost', '127.0.0.1', '[::1]', new URL(config.appOrigin).hostname]);
  const origins = new Set([
    config.appOrigin,
    `http://localhost:${config.port}`,
    `http://[::1]:${config.port}`,
  ]);

  const { journal, version } = await Journal.open(
    join(config.dataDir, 'journal'),
    clickId(now(), randomBytes(10)),
    { now, log },
  );
  let lookAtWeights = (): void => {};
  const feed = await Feed.open(join(config.dataDir, 'changes.ndjson'), {
    isAppHost: (host) => appHosts.has(host),
    onStored: (stored) => {
      journal.append(changeDraft(stored, now()));
      if (stored.kind === 'link' && stored.by !== byItself && stored.value && 'movesWeights' in stored.value)
        setImmediate(() => lookAtWeights());
    },
    log,
  });
  const story = {
    identity: journal.identity,
    generations: await beginGeneration(
      config.dataDir,
      { id: clickId(now(), randomBytes(10)), version: feed.version, seq: journal.seq },
      log,
    ),
  };
  for (const stored of await feed.since(version)) journal.append(changeDraft(stored, now()));

  const { table } = feed;
  const room = new DiskRoom(config.dataDir, config.diskReserveMb, (isLow) => {
    journal.writeOnlyKept(isLow);
    log(isLow ? 'the disk is nearly full: only postbacks are written' : 'the disk has room again', {});
  });
  await room.start();
  const append = (draft: JournalDraft) => journal.append(draft);
  const audit = new Audit(append);
  const peers = makePeers(config.trustProxy);
  const admission = new Admission({ peers, recordsPerMinute: config.recordsPerMinute, append });
  const waitingList = new WaitingList(
    join(config.dataDir, 'waiting-list.ndjson'),
    join(config.dataDir, 'erasures.ndjson'),
    () => !room.isLow,
  );
  const rejected = makeRejected(join(config.dataDir, 'rejected.ndjson'), () => !room.isLow);
  const parts = {
    table,
    visitorsToday: new VisitorsToday(),
    clicks: new PageClicks(),
    waitingList,
    visitors: new Visitors(join(config.dataDir, 'salt'), log),
    peers,
    admission,
    audit,
    rejected,
    secondPages: makeSecondPages(secret),
    countryOf: await openCountries(config.geoDb),
    isHosting: openHosting(config.hostingNetworks),
    geoHeader: config.geoHeader,
    testToken,
    sampleToken,
    append,
    appendHop: (at: number, hop: { rest(): string; readonly link: string }) =>
      journal.appendRest(at, hop, hop.link),
    failedPart: (link: TableLink, error: unknown) => {
      const message = `It failed at a hop: ${String(error)}`;
      if (!table.faults.has(link.id)) log('a part of a link failed', { link: link.id, error: String(error) });
      table.faults.set(link.id, [{ path: '', message }]);
    },
    keep: (draft: JournalDraft) => journal.keep(draft),
    now,
  };
  const bounds = { localPorts: config.standins ? [config.port, config.port + 1] : [] };
  const pages = new Pages({ log });
  await remember(parts, table, journal, now());
  const endNightlyCheck = startNightlyCheck({
    links: table.links,
    bounds,
    pages,
    keep: parts.keep,
    log,
    now,
  });
  const endKeeping = startKeeping({
    dataDir: config.dataDir,
    journal,
    months: () => table.keepMonths,
    log,
    now,
  });
  const hop = makeHop(parts);
  const scripts = new Scripts({
    dataDir: config.dataDir,
    port: config.port,
    version: () => feed.version,
    now,
    log,
  });
  /** Tells this journal from others, and from itself before something of it was removed; the same after a restart. */
  const journalNow = () => `${journal.identity} ${journal.removedUntil}`;
  const columns = new Columns({
    dataDir: config.dataDir,
    of: journalNow,
    seq: () => journal.seq,
    read: (after) => journal.read(after),
    log,
  });
  await columns.open();
  const answers = new AnswersThread({
    dataDir: config.dataDir,
    of: journalNow,
    seq: () => journal.seq,
  });
  const weights = startMovingWeights({
    links: table.links,
    zone: () => [...table.domains.values()].toSorted((a, b) => (a.id < b.id ? -1 : 1))[0]?.zone ?? 'UTC',
    record: (id) => feed.record(id),
    apply: (changes) => feed.apply(changes),
    ask: (name, args) => answers.ask(name, args),
    log,
    now,
  });
  lookAtWeights = weights.look;
  const accessLogs = new AccessLogs({
    dataDir: config.dataDir,
    geoDb: config.geoDb,
    hostingNetworks: config.hostingNetworks,
    testToken,
    of: journalNow,
    journal,
    isLow: () => room.isLow,
    audit,
    now,
  });
  const makeColumns = setInterval(() => void columns.make(), columnsEveryMs);
  makeColumns.unref();
  const readings = new PageReadings(append);
  const writeReadings = setInterval(() => readings.write(now()), 60_000);
  writeReadings.unref();
  const linkDomain = makeLinkDomain({ ...parts, checkToken, scripts, readings });
  const postback = makePostback(parts);
  const pixel = makePixel(parts);
  const site = makeSite(
    makeApi({
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
      port: config.port,
      appHost: new URL(config.appOrigin).hostname,
      checkToken,
      testToken,
      sampleToken,
      rejected,
      bounds,
      now,
      log,
    }),
    config.appOrigin.startsWith('https:'),
    config,
  );

  const failed = (response: ServerResponse) => (error: unknown) => {
    log('a request failed', { error: String(error) });
    if (!response.headersSent) refuse(response, 500, 'This failed in the server.');
    else response.destroy();
  };

  // Most requests name the host the one before them named.
  let last = { host: '', name: '' };
  const answer = (request: IncomingMessage, response: ServerResponse): void => {
    const headers = readHeaders(request.rawHeaders);
    if (headers.host !== last.host) last = { host: headers.host, name: hostName(headers.host) };
    const { name } = last;
    const host = headers.twoHosts ? undefined : table.hosts.get(name);
    const url = request.url ?? '';
    const bare = url.charCodeAt(0) === slash ? url : withoutOrigin(url);
    const reserved = reservedAt(bare);
    if (
      reserved === undefined &&
      host &&
      request.httpVersionMajor > 0 &&
      hop(request, response, host, headers)
    )
      return;
    if (request.httpVersionMajor < 1) {
      refuse(response, 400, 'Ask by HTTP/1.0 or later.');
      return;
    }
    if (host && peers.viaTrusted(request) && headers.proto === 'https')
      response.setHeader('Strict-Transport-Security', onlyHttps);
    // An address that a link had before it was the server's goes on answering, unless it carries a key of ours.
    if (
      reserved !== undefined &&
      host &&
      !isKeyOfOurs(reserved, bare) &&
      hop(request, response, host, headers)
    )
      return;
    if (reserved === 'postback') postback(request, response, bare).catch(failed(response));
    else if (reserved === 'pixel') pixel(request, response, bare);
    else if (headers.twoHosts || (headers.host === '' && request.httpVersionMinor > 0))
      refuse(response, 400, 'Name one host, once.', { Connection: 'close' });
    else if (host) linkDomain(request, response, host).catch(failed(response));
    else if (appHosts.has(name) && url.startsWith('/')) site(request, response);
    else if (appHosts.has(name)) refuse(response, 400, 'Ask for a path on this host.');
    else refuse(response, 421, 'This host is none of the domains served here.', { Connection: 'close' });
  };

  /** True for the address of a postback or pixel that a network of ours has. */
  const isKeyOfOurs = (reserved: Reserved, url: string): boolean => {
    const [, ours = ''] = pathOf(url).split('/', 2);
    if (reserved === 'postback') return table.networkByKey.has(ours);
    return reserved === 'pixel' && table.networkByPixelKey.has(ours.replace(/\.gif$/, ''));
  };

  const server = createServer(
    {
      keepAliveTimeout: 75_000,
      headersTimeout: 20_000,
      requestTimeout: 60_000,
      // A postback without a host is kept as well; anything else is refused here.
      requireHostHeader: false,
    },
    (request, response) => {
      try {
        answer(request, response);
      } catch (error) {
        failed(response)(error);
      }
    },
  );
  server.maxRequestsPerSocket = 0;
  server.maxConnections = mostConnections;
  // An expectation nobody knows is no reason to lose a postback: the request is answered as any other.
  server.on('checkExpectation', (request: IncomingMessage, response: ServerResponse) =>
    server.emit('request', request, response),
  );
  server.on('clientError', (error: Error & { code?: string; rawPacket?: Buffer }, socket) => {
    const text = error.rawPacket?.toString('latin1') ?? '';
    if (/^[A-Z]+ \S*\/postback\//.test(text)) {
      const at = now();
      audit.note('refused postback', 'A request to a postback address was refused by the parser.', at);
      rejected.keep(`refused by the parser: ${error.code ?? ''}`, text, addressOf(socket), at);
    }
    const status =
      error.code === 'HPE_HEADER_OVERFLOW'
        ? '431 Request Header Fields Too Large'
        : error.code === 'ERR_HTTP_REQUEST_TIMEOUT'
          ? '408 Request Timeout'
          : '400 Bad Request';
    if (socket.writable) socket.end(`HTTP/1.1 ${status}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`);
    else socket.destroy();
  });

  return {
    server,
    key,
    links: table.links.size,
    isNew: feed.version === 0,
    close: async () => {
      const closed = new Promise<void>((resolve) => server.close(() => resolve()));
      server.closeIdleConnections();
      // Live streams never end by themselves; whoever else is still at it has a second.
      setTimeout(() => server.closeAllConnections(), server.listening ? 1000 : 0).unref();
      endNightlyCheck();
      const weightsEnded = weights.end();
      endKeeping();
      room.stop();
      await closed;
      clearInterval(writeReadings);
      readings.write(Infinity);
      await pages.close();
      await scripts.close();
      clearInterval(makeColumns);
      await columns.close();
      // What is asked for weights is told no, so that nobody waits for an answer.
      answers.close();
      await weightsEnded;
      accessLogs.close();
      await feed.close();
      admission.tell();
      audit.close();
      await rejected.close();
      await journal.close();
      unlock();
    },
  };
};
