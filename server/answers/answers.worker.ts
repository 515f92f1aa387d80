import { parentPort, workerData } from 'node:worker_threads';
import { stringify } from 'devalue';
import type { QueryName } from '#core/queries';
import { answersFrom } from '#core/queries';
import { FollowedFolder } from './followedFolder.ts';

/** A question as it comes from the server: what is asked, and of which state of the journal. */
export interface Asked {
  readonly id: number;
  readonly of: string;
  readonly seq: number;
  readonly name: QueryName;
  readonly args: readonly unknown[];
}

const { dataDir } = workerData as { dataDir: string }; // given by answers.ts
const folder = new FollowedFolder(dataDir);
// One after the other: the dataset is not to change while it is asked.
let turn = Promise.resolve();
parentPort?.on('message', ({ id, of, seq, name, args }: Asked) => {
  turn = turn.then(async () => {
    try {
      const ask = answersFrom(await folder.now(of, seq));
      // What a question is asked with comes from a browser; one it cannot use fails as its own error.
      const answer = await (ask[name] as (...rest: readonly unknown[]) => unknown)(...args);
      parentPort?.postMessage({ id, answer: stringify(answer) });
    } catch (error) {
      parentPort?.postMessage({ id, problem: error instanceof Error ? error.message : String(error) });
    }
  });
});
