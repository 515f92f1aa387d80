import { parseArgs } from 'node:util';
import type { QueryName } from '#core/queries';
import { answerAsJson, answersFrom, queries } from '#core/queries';
import { openDataset } from '../dataFolder.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run query -- --data DIR QUESTION [ARGUMENT…], each argument as JSON, such as balance \'{"network":"net_a","month":"2026-10"}\'. With - for a question, they are read from standard input, one ["QUESTION", ARGUMENT…] a line, and answered one a line.';

const isQuestion = (name: unknown): name is QueryName =>
  typeof name === 'string' && Object.hasOwn(queries, name);

const parse = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    throw new Error(`${text} is no JSON. ${usage}`);
  }
};

const lines = async (stream: AsyncIterable<Buffer>): Promise<string[]> => {
  const pieces: Buffer[] = [];
  for await (const piece of stream) pieces.push(piece);
  return Buffer.concat(pieces).toString('utf8').split('\n').filter(Boolean);
};

const main = async (): Promise<number> => {
  const { values, positionals } = parseArgs({
    options: { data: { type: 'string', default: './data' } },
    allowPositionals: true,
    strict: true,
  });
  const [first, ...rest] = positionals;
  const asked =
    first === '-' ? (await lines(process.stdin)).map(parse) : [[first, ...rest.map((text) => parse(text))]];
  const ask = answersFrom(await openDataset(values.data));
  for (const question of asked) {
    const [name, ...args] = Array.isArray(question) ? (question as unknown[]) : [];
    if (!isQuestion(name))
      throw new Error(
        `${String(name ?? '')} is no question. Known are ${Object.keys(queries).join(', ')}. ${usage}`,
      );
    // What a question is asked with comes from a person; one it cannot use fails as its own error.
    // Some answer later.
    const answer = await (ask[name] as (...rest: unknown[]) => unknown)(...args);
    process.stdout.write(`${answerAsJson(answer, first === '-' ? undefined : 2)}\n`);
  }
  return 0;
};

endWith(main(), usage);
