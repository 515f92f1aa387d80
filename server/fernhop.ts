import { createHmac, randomBytes } from 'node:crypto';
import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import { join } from 'node:path';
import type { Kept } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { JournalDraft } from '#core/visits';
import { makeApi } from './api/api.ts';
import type { Config } from './config.ts';
import { adminKey, lockFolder } from './dataDir.ts';
import type { Table } from './feed/index.ts';
import { Feed } from './feed/index.ts';
import type { Rest } from './journal/index.ts';
import { Journal } from './journal/index.ts';
import { Mails } from './mails.ts';
import { checkNightly } from './nightly.ts';
import { makeSite } from './site.ts';
import { openCountries } from './wire/country.ts';
import { readHeaders } from './wire/headers.ts';
import { makeHop } from './wire/hop.ts';
import { makePage } from './wire/page.ts';
import { makePeers } from './wire/peer.ts';
import { makePixel, makePostback } from './wire/postback.ts';
import { refuse } from './wire/refuse.ts';
import { Seen } from './wire/seen.ts';
import { makeStrays } from './wire/strays.ts';
import { Visitors } from './wire/visitor.ts';

export interface Fernhop {
  readonly server: Server;
  readonly key: string;
  readonly links: number;
  /** True when nobody ever made anything here. */
  readonly isNew: boolean;
  /** Stops taking requests, writes what waits, lets the folder go. */
  close(): Promise<void>;
}

/** Host name of a Host header in lower case, without its port. */
const hostName = (host: string): string => {
  const colon = host.startsWith('[') ? host.indexOf(']:') + 1 : host.indexOf(':');
  return (colon > 0 ? host.slice(0, colon) : host).toLowerCase();
};

const changeDraft = (
  { edition, kind, record, revision, by, step, value }: Kept,
  at: number,
): JournalDraft => ({
  kind: 'change',
  at,
  edition,
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
  const unlock = lockFolder(config.dataDir);
  try {
    return await build(config, log, now, unlock);
  } catch (error) {
    unlock();
    throw error;
  }
};

/** Tells `seen` of today's visitors from the journal, so that a restart makes nobody new. */
const remember = async (seen: Seen, { hosts }: Table, journal: Journal, at: number): Promise<void> => {
  for await (const record of journal.today(at)) {
    if (record.kind !== 'hop' || record.prefetch) continue;
    const host = hosts.get(record.host);
    if (host) seen.before(host.domain.id, record.visitor, record.at);
  }
};

const build = async (
  config: Config,
  log: (message: string, detail: object) => void,
  now: () => number,
  unlock: () => void,
): Promise<Fernhop> => {
  const key = adminKey(config.dataDir, config.key);
  const testToken = createHmac('sha256', key).update('test hop').digest('hex').slice(0, 16);
  const sampleToken = createHmac('sha256', key).update('sample postback').digest('hex').slice(0, 32);
  const checkToken = createHmac('sha256', key).update('domain check').digest('hex').slice(0, 32);
  const appHosts = new Set(['localhost', '127.0.0.1', '[::1]', new URL(config.appOrigin).hostname]);
  const origins = new Set([
    config.appOrigin,
    `http://localhost:${config.port}`,
    `http://[::1]:${config.port}`,
  ]);

  const { journal, edition } = await Journal.open(
    join(config.dataDir, 'journal'),
    clickId(now(), randomBytes(10)),
    { now, log },
  );
  const feed = await Feed.open(join(config.dataDir, 'changes.ndjson'), {
    isAppHost: (host) => appHosts.has(host),
    onKept: (kept) => journal.append(changeDraft(kept, now())),
    log,
  });
  for (const kept of await feed.since(edition)) journal.append(changeDraft(kept, now()));

  const mails = new Mails(join(config.dataDir, 'mails.ndjson'));
  const strays = makeStrays(join(config.dataDir, 'strays.ndjson'));
  const parts = {
    table: feed.table,
    seen: new Seen(),
    mails,
    visitors: new Visitors(join(config.dataDir, 'salt'), log),
    peers: makePeers(config.trustProxy),
    countryOf: await openCountries(config.geoDb),
    geoHeader: config.geoHeader,
    testToken,
    sampleToken,
    append: (draft: JournalDraft) => journal.append(draft),
    appendRest: (at: number, rest: Rest) => journal.appendRest(at, rest),
    keep: (draft: JournalDraft) => journal.keep(draft),
    stray: strays.keep,
    now,
  };
  const bounds = { localPorts: config.standins ? [config.port, config.port + 1] : [] };
  await remember(parts.seen, feed.table, journal, now());
  const endNightly = checkNightly({ links: feed.table.links, bounds, keep: parts.keep, log, now });
  const hop = makeHop(parts);
  const page = makePage({ ...parts, checkToken });
  const postback = makePostback(parts);
  const pixel = makePixel(parts);
  const site = makeSite(
    makeApi({
      key,
      origins,
      feed,
      journal,
      mails,
      port: config.port,
      checkToken,
      testToken,
      sampleToken,
      newestStrays: strays.newest,
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
    const told = readHeaders(request.rawHeaders);
    if (told.host !== last.host) last = { host: told.host, name: hostName(told.host) };
    const { name } = last;
    const host = feed.table.hosts.get(name);
    if (host && request.httpVersionMajor > 0 && hop(request, response, host, told)) return;
    const url = request.url ?? '';
    if (request.httpVersionMajor < 1) {
      refuse(response, 400, 'Ask by HTTP/1.0 or later.');
      return;
    }
    if (url.startsWith('/postback/')) postback(request, response).catch(failed(response));
    else if (url.startsWith('/pixel/')) pixel(request, response);
    else if (host) page(request, response, host).catch(failed(response));
    else if (appHosts.has(name) && url.startsWith('/')) site(request, response);
    else if (appHosts.has(name)) refuse(response, 400, 'Ask for a path on this host.');
    else refuse(response, 421, 'This host is none of the domains served here.', { Connection: 'close' });
  };

  const server = createServer(
    { keepAliveTimeout: 75_000, headersTimeout: 20_000, requestTimeout: 60_000 },
    (request, response) => {
      try {
        answer(request, response);
      } catch (error) {
        failed(response)(error);
      }
    },
  );
  server.maxRequestsPerSocket = 0;
  server.on('clientError', (error: Error & { code?: string; rawPacket?: Buffer }, socket) => {
    const text = error.rawPacket?.toString('latin1') ?? '';
    if (/^[A-Z]+ \S*\/postback\//.test(text))
      parts.stray(`refused by the parser: ${error.code ?? ''}`, text, now());
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
    links: feed.table.links.size,
    isNew: feed.edition === 0,
    close: async () => {
      const closed = new Promise<void>((resolve) => server.close(() => resolve()));
      server.closeIdleConnections();
      // Live streams never end by themselves; whoever else is still at it has a second.
      setTimeout(() => server.closeAllConnections(), server.listening ? 1000 : 0).unref();
      endNightly();
      await closed;
      await feed.close();
      await journal.close();
      unlock();
    },
  };
};
