import { parentPort, workerData } from 'node:worker_threads';
import { stringify } from 'devalue';
import type { Dataset } from '#core/queries';
import { answersFrom } from '#core/queries';
import { FollowedFolder } from './followedFolder.ts';

/** A question as it comes from the server: what is asked, and of which state of the journal. */
export interface Asked {
  readonly id: number;
  readonly of: string;
  readonly seq: number;
  readonly name: string;
  readonly args: readonly unknown[];
}
/** Nobody asks yet, but somebody is about to: what every answer needs is to be there by then. */
export type Prepare = Pick<Asked, 'of' | 'seq'>;

const { dataDir } = workerData as { dataDir: string }; // given by answers.ts
const folder = new FollowedFolder(dataDir);
const waiting: Asked[] = [];

/** What a question is asked with comes from a browser; one it cannot use fails as its own error. */
const answer = async (data: Dataset, { name, args }: Asked): Promise<string> => {
  const questions = new Map<string, unknown>(Object.entries(answersFrom(data)));
  const ask = questions.get(name);
  if (typeof ask !== 'function') throw new Error(`There is no question ${name}.`);
  return stringify(await ask(...args));
};

/** A screen asks for its requests alone to have them sooner than all that was made of them. */
const isForRequestsOnly = ({ args: [question] }: Asked): boolean =>
  typeof question === 'object' &&
  question !== null &&
  'requestsOnly' in question &&
  question.requestsOnly === true;

/** Answers one of those that wait by then; whatever else came while the journal was read waits with it. */
const answerNext = async (): Promise<void> => {
  const newest = waiting.at(-1);
  if (!newest) return;
  let asked = newest;
  try {
    const data = await folder.now(newest.of, newest.seq);
    const first = waiting.findIndex(isForRequestsOnly);
    [asked = newest] = waiting.splice(Math.max(first, 0), 1);
    parentPort?.postMessage({ id: asked.id, answer: await answer(data, asked) });
  } catch (error) {
    const at = waiting.indexOf(asked);
    if (at !== -1) waiting.splice(at, 1);
    parentPort?.postMessage({
      id: asked.id,
      problem: error instanceof Error ? error.message : String(error),
    });
  }
};

const prepare = async ({ of, seq }: Prepare): Promise<void> => {
  (await folder.now(of, seq)).classification.update();
};

// One after the other: the dataset is not to change while it is asked.
let turn = Promise.resolve();
parentPort?.on('message', (message: Asked | Prepare) => {
  if ('id' in message) {
    waiting.push(message);
    turn = turn.then(answerNext);
    return;
  }
  // What fails here fails again for the first who asks, and is told to them; those behind it are not to wait for ever.
  turn = turn.then(() => prepare(message)).catch(() => undefined);
});
