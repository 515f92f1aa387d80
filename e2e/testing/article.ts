import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';

/** A page of the person's own site with some HTML in it, at an address with a path. */
export const article = async (html: string): Promise<{ url: string; close: () => void }> => {
  const site = createServer((_request, response) => {
    response.setHeader('Content-Type', 'text/html; charset=utf-8');
    response.end(`<!doctype html><title>Seeing the rings</title><p>${html}</p>`);
  });
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  const { port } = site.address() as AddressInfo; // it listens on a port
  return { url: `http://nightledge.localhost:${port}/saturn-guide`, close: () => site.close() };
};
