import { afterAll, beforeAll, expect, it } from 'vitest';
import { call, fillFirst } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';

let server: Running;
beforeAll(async () => {
  server = await startProcess();
  await fillFirst(server);
});
afterAll(() => server.stop());

const question = { by: 'source', from: '2026-10-01', to: '2026-10-31', where: [] };
const ask = (name: string, args: readonly unknown[]) =>
  call(server, 'POST', '/ask', { question: name, args });

it('answers what is asked for requests alone before what waits with it, and all of it', async () => {
  const answered: string[] = [];
  const asked = async (words: string, name: string, args: readonly unknown[]) => {
    const { status, body } = await ask(name, args);
    answered.push(`${words}: ${status}${status === 200 ? '' : ` ${body}`}`);
  };
  // None is answered before the thread has begun and read the journal: by then all of them wait.
  await Promise.all([
    asked('all', 'traffic', [question]),
    asked('nothing', 'weather', []),
    asked('requests', 'traffic', [{ ...question, requestsOnly: true }]),
    asked('wrong', 'traffic', [{ ...question, by: 'weather' }]),
  ]);
  expect(answered[0]).toBe('requests: 200');
  expect(answered.toSorted()).toEqual([
    'all: 200',
    expect.stringMatching(/^nothing: 503 .*There is no question weather\./s),
    'requests: 200',
    expect.stringMatching(/^wrong: 503 /),
  ]);
});
