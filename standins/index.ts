import type { Server } from 'node:http';
import { createServer } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import { forwarderHost, forwarderRoutes } from './forwarder/forwarder.ts';
import { kinds } from './kinds/index.ts';
import type { Kind } from './network/kind.ts';
import { SimulatedNetwork } from './network/network.ts';
import { networkRoutes } from './network/routes.ts';
import { siteHost, siteRoutes } from './site/site.ts';
import type { Believed } from './visitors/crowd.ts';
import { visitorsHost, visitorsRoutes } from './visitors/routes.ts';
import { shopRoutes } from './shop/shop.ts';
import type { Shop } from './shop/shops.ts';
import { shops } from './shop/shops.ts';

export type { Answer } from './localhost.ts';
export type { Kind, StatementRow, State } from './network/kind.ts';
export { kinds } from './kinds/index.ts';
export { writeBooks } from './network/network.ts';
export { workbook } from './network/workbook.ts';
export { send } from './localhost.ts';
export { sitePages } from './site/pages.ts';
export { siteHost } from './site/site.ts';
export { Crowd } from './visitors/crowd.ts';

/** The simulated networks of the demo, each with its shops. */
const ownNetworks = kinds.map((kind) => ({
  kind,
  shops: shops.filter(({ network }) => network === kind.id),
}));

/** Where in a data folder a simulated network keeps its books. */
export const booksPath = (dataDir: string, kind: Pick<Kind, 'id'>): string =>
  join(dataDir, 'standins', `${kind.id}.json`);

export interface Standins {
  readonly server: Server;
  /** Resolves when every postback on its way has been delivered or given up. */
  idle(): Promise<void>;
  close(): Promise<void>;
}

/**
 * Starts the simulated networks and their shops on one port, told apart by host.
 *
 * @param dataDir where they keep their books
 * @param now their clock; milliseconds since 1970 UTC
 * @param networks those of the demo unless others are given
 * @param believed how the server learns where a visitor is, for those who are let loose on it
 * @throws Error when the port is taken
 */
export const startStandins = async (
  port: number,
  dataDir: string,
  host: string,
  now: () => number = Date.now,
  networks: readonly { readonly kind: Kind; readonly shops: readonly Shop[] }[] = ownNetworks,
  believed?: Believed,
): Promise<Standins> => {
  const originOf = (name: string) => `http://${name}:${port}`;
  const deliveries = new Set<Promise<void>>();
  const onDelivery = (delivery: Promise<void>) => {
    deliveries.add(delivery);
    void delivery.finally(() => deliveries.delete(delivery));
  };
  const byHost = new Map<string, express.Router>([
    [forwarderHost, forwarderRoutes()],
    [visitorsHost, visitorsRoutes(port - 1, believed)],
    // The server, and its link domain with it, is on the port before this one.
    [siteHost, siteRoutes(`http://see.${siteHost}:${port - 1}`, originOf('polehouse.localhost'))],
  ]);
  for (const { kind, shops: theirs } of networks) {
    const origin = originOf(kind.host);
    const routes = networkRoutes(new SimulatedNetwork(kind, booksPath(dataDir, kind)), {
      origin,
      products: theirs.flatMap(({ host: shop, offer, products }) =>
        products.map(({ path, name }) => ({ name, offer, page: originOf(shop) + path })),
      ),
      shops: theirs.map((shop) => originOf(shop.host)),
      now,
      onDelivery,
    });
    byHost.set(kind.host, routes);
    for (const shop of theirs) {
      const pages = shopRoutes(shop, { origin, clickName: kind.clickName });
      // A merchant with a program of its own has one host for both.
      if (shop.host === kind.host) routes.use(pages);
      else byHost.set(shop.host, pages);
    }
  }

  const site = express();
  site.disable('x-powered-by');
  site.set('query parser', 'simple');
  /** An account may be a label before its network's host. */
  const routerOf = (asked: string): express.Router | undefined =>
    byHost.get(asked) ?? (asked.includes('.') ? routerOf(asked.slice(asked.indexOf('.') + 1)) : undefined);
  site.use((request, response, next) => {
    const router = routerOf(request.hostname);
    if (router) router(request, response, next);
    else response.status(421).type('text').send('No stand-in has this host.\n');
  });

  const server = createServer(site);
  await new Promise<void>((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        new Error(
          error.code === 'EADDRINUSE' ? `port ${port} is taken, and the stand-ins need it.` : error.message,
        ),
      ),
    );
    server.listen(port, host, resolve);
  });
  return {
    server,
    idle: async () => {
      while (deliveries.size > 0) await Promise.all(deliveries);
    },
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
};
