import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { send } from '../../standins/index.ts';
import { call } from '../client.ts';
import { startProcess } from '../testing/process.ts';
import { fail } from '../run.ts';
import { anonymous, flood } from '../testing/flood.ts';
import { fillForRequests, runGenerated } from '../testing/generated.ts';
import { killRounds } from '../testing/kills.ts';

const usage =
  'Usage: npm run soak [-- --requests 200000] [--seconds 60] [--kills 50] [--seed N]; --seconds 0 leaves the floods out.';
const megabyte = 1024 * 1024;
const mostGrowth = 10;
const mostWaitMs = 200;
const healthEveryMs = 250;

let failures = 0;
const say = (line: string) => process.stdout.write(`${line}\n`);
const check = (good: boolean, line: string) => {
  if (!good) failures += 1;
  say(`${good ? 'ok  ' : 'FAIL'} ${line}`);
};

/** Memory a process holds, in bytes (proc(5)). */
const memoryOf = (pid: number): number =>
  Number(/^VmRSS:\s+(\d+) kB$/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? NaN) * 1024;

const generated = async (requests: number, seed: number): Promise<void> => {
  const server = await startProcess({ env: { RECORDS_PER_MINUTE: '100000000' } });
  const aim = await fillForRequests(server);
  const report = await runGenerated(server, aim, requests, seed);
  await server.stop();
  say(`${report.requests} requests made up from seed ${seed}:`);
  for (const [name, count] of [...report.answers].sort()) say(`     ${String(count).padStart(8)}  ${name}`);
  for (const fault of report.faults) say(`     ${fault}`);
  check(
    report.faults.length === 0,
    `${report.acknowledged} postbacks answered 200, each in the journal byte for byte and once; nothing else gave`,
  );
};

/** Asks for health and sends a postback again and again while something else goes on. */
const besides = async (port: number, key: string, work: Promise<unknown>) => {
  let running = true;
  void work.finally(() => (running = false));
  const waits: number[] = [];
  let acknowledged = 0;
  let refused = 0;
  for (let n = 0; running; n++) {
    const began = performance.now();
    const health = await send(`http://localhost:${port}/api/health`).catch(() => undefined);
    waits.push(health?.status === 200 ? performance.now() - began : Infinity);
    const postback = await send(`http://localhost:${port}/postback/${key}?txn=b${n}`).catch(() => undefined);
    if (postback?.status === 200) acknowledged += 1;
    else refused += 1;
    await new Promise((resolve) => setTimeout(resolve, healthEveryMs));
  }
  waits.sort((a, b) => a - b);
  return {
    worst: waits.at(-1) ?? Infinity,
    middle: waits[waits.length >> 1] ?? Infinity,
    acknowledged,
    refused,
  };
};

const floods = async (seconds: number): Promise<void> => {
  for (const kind of ['hop', 'unknown key', 'pixel', 'beacon', 'unknown slug', 'unknown host'] as const) {
    // The heap's limit under which a server ended before its queues were bounded.
    const server = await startProcess({
      command: [process.execPath, '--max-semi-space-size=64', '--max-old-space-size=512'],
    });
    const { host, pixelKey, port, postbackKey } = await fillForRequests(server);
    const request = anonymous(host, pixelKey, 'lnk_kit')[kind];
    const turns = [];
    for (let turn = 0; turn < 2; turn++) {
      const flooding = flood(port, request, { ms: seconds * 1000 });
      const meanwhile = await besides(port, postbackKey, flooding);
      turns.push({ answered: await flooding, memory: memoryOf(server.child.pid ?? 0), ...meanwhile });
    }
    const [first, second] = turns;
    if (!first || !second) throw new Error('two turns were made');
    const growth = (second.memory - first.memory) / megabyte;
    const about = await call(server, 'GET', '/about');
    await server.stop();
    const line = `flood of ${kind}, ${seconds} s twice by four connections: ${first.answered} and ${second.answered} answered; memory ${(first.memory / megabyte).toFixed(0)} MB, then ${growth >= 0 ? '+' : ''}${growth.toFixed(1)} MB; health in ${Math.max(first.middle, second.middle).toFixed(1)} ms, at worst ${Math.max(first.worst, second.worst).toFixed(0)} ms; ${first.acknowledged + second.acknowledged} postbacks acknowledged, ${first.refused + second.refused} not`;
    check(
      growth < mostGrowth &&
        Math.max(first.worst, second.worst) < mostWaitMs &&
        first.refused + second.refused === 0 &&
        about.status === 200,
      line,
    );
  }
};

const main = async (): Promise<void> => {
  const { values } = parseArgs({
    options: {
      requests: { type: 'string', default: '200000' },
      seconds: { type: 'string', default: '60' },
      kills: { type: 'string', default: '50' },
      seed: { type: 'string', default: String(Math.floor(Math.random() * 2 ** 31)) },
    },
    strict: true,
  });
  const number = (text: string): number => {
    if (!/^\d{1,10}$/.test(text)) throw new Error(usage);
    return Number(text);
  };
  const requests = number(values.requests);
  const seconds = number(values.seconds);
  const kills = number(values.kills);
  const seed = number(values.seed);
  const began = performance.now();
  if (requests > 0) await generated(requests, seed);
  if (kills > 0) {
    const { postbacks, links, shown } = await killRounds(kills);
    check(
      true,
      `${kills} kills without warning: ${postbacks} postbacks and ${links} changes that were acknowledged, ${shown} records that were shown, all there, once`,
    );
  }
  if (seconds > 0) await floods(seconds);
  say(
    `${failures === 0 ? 'All held' : `${failures} did not hold`}, in ${((performance.now() - began) / 60_000).toFixed(1)} minutes.`,
  );
  process.exit(failures === 0 ? 0 : 1);
};

main().catch((error: unknown) => {
  if (error instanceof Error && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS'))
    fail(new Error(usage));
  fail(error);
});
