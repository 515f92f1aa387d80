import type { Server } from 'node:http';
import { createServer } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import { forwarderHost, forwarderRoutes } from './forwarder/forwarder.ts';
import { Network, writeBooks } from './harrowmead/network.ts';
import { networkRoutes } from './harrowmead/routes.ts';
import { shopRoutes, shops } from './shop/shop.ts';

export type { Answer } from './localhost.ts';
export { send } from './localhost.ts';

/** Where in a data folder Harrowmead keeps its books. */
export const harrowmeadPath = join('standins', 'harrowmead.json');
export { writeBooks as harrowmeadBooks };

export interface Standins {
  readonly server: Server;
  /** Resolves when every postback on its way has been delivered or given up. */
  idle(): Promise<void>;
  close(): Promise<void>;
}

const networkHost = 't.harrowmead.localhost';

/**
 * Starts the simulated network and its shops on one port, told apart by host.
 *
 * @param dataDir where they keep their books
 * @param now their clock; milliseconds since 1970 UTC
 * @throws Error when the port is taken
 */
export const startStandins = async (
  port: number,
  dataDir: string,
  host: string,
  now: () => number = Date.now,
): Promise<Standins> => {
  const origin = `http://${networkHost}:${port}`;
  const originOf = (shopHost: string) => `http://${shopHost}:${port}`;
  const books = new Network(join(dataDir, harrowmeadPath));
  const deliveries = new Set<Promise<void>>();
  const products = shops.flatMap((shop) =>
    shop.products.map(({ path, name }) => ({
      name,
      deal: shop.deal,
      page: originOf(shop.host) + path,
    })),
  );
  const byHost = new Map<string, express.Router>([
    [
      networkHost,
      networkRoutes(
        books,
        origin,
        products,
        shops.map((shop) => originOf(shop.host)),
        now,
        (delivery) => {
          deliveries.add(delivery);
          void delivery.finally(() => deliveries.delete(delivery));
        },
      ),
    ],
    [forwarderHost, forwarderRoutes()],
    ...shops.map((shop): [string, express.Router] => [shop.host, shopRoutes(shop, origin)]),
  ]);

  const site = express();
  site.disable('x-powered-by');
  site.set('query parser', 'simple');
  site.use((request, response, next) => {
    const router = byHost.get(request.hostname);
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
