import type { Server } from 'node:http';
import { createServer } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import { Network } from './harrowmead/network.ts';
import { networkRoutes } from './harrowmead/routes.ts';
import { products, shopRoutes } from './polehouse/shop.ts';

export type { Answer } from './localhost.ts';
export { send } from './localhost.ts';

export interface Standins {
  readonly server: Server;
  close(): Promise<void>;
}

/**
 * Starts the simulated network and shop on one port: `t.harrowmead.localhost` and `polehouse.localhost`.
 *
 * @param dataDir where they keep their books
 * @throws Error when the port is taken
 */
export const startStandins = async (port: number, dataDir: string, host: string): Promise<Standins> => {
  const network = `http://t.harrowmead.localhost:${port}`;
  const shop = `http://polehouse.localhost:${port}`;
  const books = new Network(join(dataDir, 'standins', 'harrowmead.json'));
  const atNetwork = networkRoutes(books, network, shop, products);
  const atShop = shopRoutes(network);

  const site = express();
  site.disable('x-powered-by');
  site.set('query parser', 'simple');
  site.use((request, response, next) => {
    if (request.hostname === 't.harrowmead.localhost') atNetwork(request, response, next);
    else if (request.hostname === 'polehouse.localhost') atShop(request, response, next);
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
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
};
