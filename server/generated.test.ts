import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';
import { fillForRequests, runGenerated } from './testing/generated.ts';
import type { Aim } from './testing/requests.ts';

const requests = 20_000;

describe('requests nobody would make', () => {
  let server: Running;
  let aim: Aim;
  beforeAll(async () => {
    server = await startProcess({ env: { RECORDS_PER_MINUTE: '1000000' } });
    aim = await fillForRequests(server);
  });
  afterAll(() => server.stop());

  it(`${requests} of them: each postback that was answered 200 is kept byte for byte, once, and nothing else gives`, async () => {
    const seed = Math.floor(Math.random() * 2 ** 31);
    const report = await runGenerated(server, aim, requests, seed);
    expect(report.faults).toEqual([]);
    expect(report.acknowledged).toBeGreaterThan(requests / 10);
    const answered = (name: string) => report.answers.get(name) ?? 0;
    for (const name of [
      'hop 307',
      'hop 200',
      'hop 410',
      'pixel 200',
      'beacon 400',
      'stranger 421',
      'postback 404',
    ])
      expect([name, answered(name)]).not.toEqual([name, 0]);
  });
});
