import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setTimeout as pause } from 'node:timers/promises';
import { expect, it } from 'vitest';
import { Pages } from './pages.ts';

it('gives a site that is slow its time, also when nothing was asked for a while', async () => {
  const server = createServer((request, response) => {
    setTimeout(() => response.end('here'), request.url === '/slow' ? 1500 : 0);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo; // it listens on TCP
  const replaced: string[] = [];
  const pages = new Pages({ log: (message) => replaced.push(message) });
  const trace = (path: string) => pages.trace(`http://shop.localhost:${port}${path}`, { localPorts: [port] });
  expect((await trace('/')).end).toBe('arrived');
  await pause(3500);
  expect(await trace('/slow')).toMatchObject({ end: 'arrived', hops: [{ status: 200 }] });
  expect(replaced).toEqual([]);
  await pages.close();
  server.close();
});
