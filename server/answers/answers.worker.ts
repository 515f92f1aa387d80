import { parentPort, workerData } from 'node:worker_threads';
import { stringify } from 'devalue';
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

const { dataDir } = workerData as { dataDir: string }; // given by answers.ts
const folder = new FollowedFolder(dataDir);
// One after the other: the dataset is not to change while it is asked.
let turn = Promise.resolve();
parentPort?.on('message', ({ id, of, seq, name, args }: Asked) => {
  turn = turn.then(async () => {
    try {
      const questions = new Map<string, unknown>(Object.entries(answersFrom(await folder.now(of, seq))));
      const ask = questions.get(name);
      if (typeof ask !== 'function') throw new Error(`There is no question ${name}.`);
      // What a question is asked with comes from a browser; one it cannot use fails as its own error.
      const answer: unknown = await ask(...args);
      parentPort?.postMessage({ id, answer: stringify(answer) });
    } catch (error) {
      parentPort?.postMessage({ id, problem: error instanceof Error ? error.message : String(error) });
    }
  });
});
