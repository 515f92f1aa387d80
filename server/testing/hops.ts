import { randomBytes } from 'node:crypto';
import type { RequestListener } from 'node:http';
import { createServer } from 'node:http';
import { send } from '../../standins/index.ts';
import { Admission } from '../http/admission.ts';
import { readHeaders } from '../http/headers.ts';
import { makeHop } from '../http/hop.ts';
import { PageClicks } from '../http/pageClicks.ts';
import { makePeers } from '../http/peer.ts';
import { makeSecondPages } from '../http/secondPage.ts';
import { VisitorsToday } from '../http/visitorsToday.ts';
import { Visitors } from '../http/visitor.ts';
import type { LinkTable } from '../feed/index.ts';
import { freePort, freshFolder } from './process.ts';

/** The handler of hops over a link table, listening; everybody comes from Germany. */
export const listenForHops = async (table: LinkTable, now: () => number = Date.now) => {
  const failures: string[] = [];
  const written: string[] = [];
  const peers = makePeers([]);
  const hop = makeHop({
    table,
    visitorsToday: new VisitorsToday(),
    visitors: new Visitors(`${freshFolder()}/salt`),
    peers,
    admission: new Admission({ peers, recordsPerMinute: 1_000_000, append: () => undefined }),
    secondPages: makeSecondPages(randomBytes(32)),
    clicks: new PageClicks(),
    countryOf: () => 'DE',
    isHosting: () => undefined,
    geoHeader: undefined,
    testToken: 'test',
    append: () => undefined,
    appendHop: (_at, waiting) => written.push(waiting.rest()),
    failedPart: ({ id }, error) => failures.push(`${id}: ${String(error)}`),
    now,
  });
  const listener: RequestListener = (request, response) => {
    const host = table.hosts.get((request.headers.host ?? '').replace(/:\d+$/, ''));
    if (host && hop(request, response, host, readHeaders(request.rawHeaders))) return;
    response.writeHead(404).end();
  };
  const port = await freePort();
  const server = createServer(listener);
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  const close = () =>
    new Promise<void>((resolve) => {
      server.close(() => resolve());
      server.closeAllConnections();
    });
  /** Asks for a path of a host as a visitor does. */
  const ask = (host: string, path: string, headers: Readonly<Record<string, string>> = {}) =>
    send(`http://${host}:${port}/${path}`, { headers });
  return { ask, written, failures, close };
};
