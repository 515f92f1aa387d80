import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { send } from '../standins/index.ts';
import { fillFirst, readJournal } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';

let server: Running;
beforeAll(async () => {
  server = await startProcess({
    env: { STANDINS: '1', TRUST_PROXY: '127.0.0.0/8', GEO_HEADER: 'X-Country' },
  });
  await fillFirst(server);
});
afterAll(() => server.stop());

const page = () => `http://visitors.localhost:${server.port + 1}/`;
const ask = (fields: Record<string, string>, origin?: string) =>
  send(
    page(),
    {
      method: 'POST',
      headers: { 'Content-Type': 'application/x-www-form-urlencoded', ...(origin && { Origin: origin }) },
    },
    new URLSearchParams(fields).toString(),
  );

it('lets visitors loose on a link, from where and as what is asked for, who buy; pages of others may not ask', async () => {
  const wanted = {
    link: `http://see.nightledge.localhost:${server.port}/saturn-kit~crowd`,
    ...{ visitors: '60', seconds: '1', countries: 'DE, DE, GB', machines: '30', buying: '40' },
  };
  expect((await ask(wanted, 'https://elsewhere.example')).status).toBe(403);
  for (const [name, wrong] of Object.entries({
    link: 'https://shop.example/',
    visitors: '0',
    seconds: '-1',
    countries: 'Germany',
    machines: '130',
  })) {
    const { status, body } = await ask({ ...wanted, [name]: wrong });
    expect([name, status, body.includes('role="alert"')]).toEqual([name, 400, true]);
  }
  expect((await ask(wanted)).status).toBe(303);
  const said = await vi.waitFor(async () => {
    const { body } = await send(page());
    expect(body).toContain('They came to');
    return body.replace(/\s+/g, ' ');
  }, 20_000);
  const [, people = 0, machines = 0, bought = 0] = (
    /(\d+) people and (\d+) machines of 60, (\d+) bought\./.exec(said) ?? []
  ).map(Number);
  expect(people + machines).toBe(60);
  expect(people).toBeGreaterThan(20);
  expect(machines).toBeGreaterThan(2);
  expect(bought).toBeGreaterThan(2);
  await vi.waitFor(async () => {
    const hops = (await readJournal(server)).filter((record) => record.kind === 'hop');
    expect(hops.length).toBe(60);
    expect(new Set(hops.map(({ country }) => country))).toEqual(new Set(['DE', 'GB']));
    expect(new Set(hops.map(({ visitor }) => visitor)).size).toBeGreaterThan(50);
    expect(new Set(hops.map(({ source }) => source))).toEqual(new Set(['crowd']));
  }, 5000);
}, 40_000);
