import { createReadStream, createWriteStream, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { logPieceBytes, sendLogs } from '#core/visits';
import { fillFirst } from '../server/client.ts';
import { accessLogLines } from '../server/testing/accessLogLines.ts';
import { askLogs } from '../server/testing/accessLogs.ts';
import type { Running } from '../server/testing/process.ts';
import { freshFolder, startProcess } from '../server/testing/process.ts';
import { printTable } from './table.ts';

/** How large the log is; its memory is held against that for one of half its size. */
const megabytes = Number(process.env['MEGABYTES'] ?? 1000);
const from = Date.UTC(2026, 0, 1);

const write = async (path: string, bytes: number): Promise<number> => {
  let lines = 0;
  const texts = function* () {
    const made = { seed: 5, from, everyMs: 2000, paths: ['/saturn-kit', '/saturn'], share: 10 };
    let [written, text] = [0, ''];
    for (const line of accessLogLines(made)) {
      text += line;
      lines += 1;
      written += line.length;
      if (text.length > 1e6) {
        yield text;
        text = '';
      }
      if (written >= bytes) break;
    }
    yield text;
  };
  await pipeline(Readable.from(texts()), createWriteStream(path));
  return lines;
};
const seconds = async (work: () => Promise<unknown>): Promise<number> => {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
};
const byLines = async (path: string): Promise<number> => {
  let lines = 0;
  for await (const line of createInterface({ input: createReadStream(path), crlfDelay: Infinity }))
    lines += line.length > 0 ? 1 : 0;
  return lines;
};
const take = async (server: Running, path: string, dryRun: boolean): Promise<number> => {
  const file = { name: 'access.log', pieces: createReadStream(path, { highWaterMark: logPieceBytes }) };
  let fresh = 0;
  for await (const { report } of sendLogs(askLogs(server), { host: '', dryRun, files: 1, by: '' }, [file]))
    fresh = report.fresh.count;
  return fresh;
};
/** Most memory the server held so far, in megabytes. */
const peak = (server: Running): number =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.child.pid ?? 0}/status`, 'utf8'))?.[1]) / 1024;

const folder = freshFolder();
const [half, large] = [join(folder, 'half.log'), join(folder, 'large.log')];
await write(half, megabytes * 5e5);
const lines = await write(large, megabytes * 1e6);
const other = await startProcess();
await fillFirst(other);
await take(other, half, true);
const afterHalf = peak(other);
await other.stop();
const server = await startProcess();
await fillFirst(server);
const readFirst = await seconds(() => byLines(large));
let fresh = 0;
const dry = await seconds(async () => (fresh = await take(server, large, true)));
const afterLarge = peak(server);
const read = (readFirst + (await seconds(() => byLines(large)))) / 2;
const bring = await seconds(() => take(server, large, false));
await server.stop();
rmSync(folder, { recursive: true });
console.log(`${megabytes} MB, ${lines} lines, ${fresh} of them requests of links`);
printTable('Access logs: bringing in against reading by lines', [
  { what: 'rate of a dry run ÷ rate of Node reading it by lines', values: [read / dry], least: 1 / 8 },
  { what: 'rate of bringing it in ÷ rate of Node reading it by lines', values: [read / bring], least: 1 / 8 },
  {
    what: 'most memory of a server, this log ÷ one of half',
    values: [afterLarge / afterHalf],
    most: 1.5,
  },
]);
console.log(`the servers held at most ${Math.round(afterHalf)} and ${Math.round(afterLarge)} MB`);
