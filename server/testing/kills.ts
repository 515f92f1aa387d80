import { deepEqual, equal, ok } from 'node:assert/strict';
import { get } from 'node:http';
import type { JournalRecord } from '#core/visits';
import { join } from 'node:path';
import { verifyJournal } from '../journal/index.ts';
import { call, fillFirst, readJournal } from '../client.ts';
import { keptBy, nothingAcknowledged, putUnderLoad, recordsOf } from './load.ts';
import { freshFolder, freePort, startProcess } from './process.ts';

/** What came through all the kills. */
export interface KillReport {
  readonly postbacks: number;
  readonly links: number;
  /** Records that were shown before a kill, each of which had to be there after it. */
  readonly shown: number;
}

/**
 * Loads a server with postbacks, hops, changes and readers, kills it with no warning, starts it at once again, and so on;
 * then looks whether all that was acknowledged or shown is there, once.
 *
 * @throws AssertionError where anything is missing or there twice
 */
export const killRounds = async (rounds: number): Promise<KillReport> => {
  const dataDir = freshFolder();
  const port = await freePort();
  let server = await startProcess({ dataDir, port });
  const { key, link } = await fillFirst(server);
  const acknowledged = nothingAcknowledged();
  /** Every line the journal call or the live stream ever showed, by seq. */
  const shown = new Map<number, string>();
  const note = (text: string) => {
    for (const line of text.split('\n').slice(0, -1)) {
      if (line === '') continue;
      const { seq } = JSON.parse(line) as { seq: number };
      const before = shown.get(seq);
      if (before !== undefined) equal(line, before);
      shown.set(seq, line);
    }
  };

  for (let round = 0; round < rounds; round++) {
    let running = true;
    const live = get(
      `http://localhost:${port}/api/live`,
      { headers: { Authorization: `Bearer ${server.key}` } },
      (response) => {
        let rest = '';
        response.setEncoding('utf8').on('data', (text: string) => {
          const whole = (rest + text).lastIndexOf('\n') + 1;
          note((rest + text).slice(0, whole));
          rest = (rest + text).slice(whole);
        });
        response.on('error', () => undefined);
      },
    );
    live.on('error', () => undefined);

    const reads = async () => {
      while (running) {
        const answer = await call(server, 'GET', `/journal?after=${Math.max(0, shown.size - 50)}`).catch(
          () => undefined,
        );
        if (answer?.status === 200) note(answer.body);
      }
    };
    const endLoad = putUnderLoad(server, { key, link }, acknowledged);
    const reading = reads();
    await new Promise((resolve) => setTimeout(resolve, 150 + Math.random() * 250));
    server.child.kill('SIGKILL');
    // The next one is started at once: the killed one may not have been reaped yet, and still stands in the lock.
    const next = startProcess({ dataDir, port });
    running = false;
    await Promise.all([endLoad(), reading]);
    live.destroy();
    server = await next;
  }

  const journal = await readJournal(server);
  deepEqual(
    journal.map((record) => record.seq),
    journal.map((_, i) => i + 1),
  );
  const bySeq = new Map(journal.map((record): [number, JournalRecord] => [record.seq, record]));
  ok(shown.size > rounds * 10);
  for (const [seq, line] of shown) deepEqual(bySeq.get(seq), JSON.parse(line));

  const kept = keptBy(journal);
  ok(acknowledged.postbacks.size > rounds * 5);
  for (const id of acknowledged.postbacks) deepEqual([id, kept.get(id)], [id, 1]);

  const records = await recordsOf(server);
  ok(acknowledged.links.size > rounds);
  deepEqual(
    [...acknowledged.links].filter((id) => !records.has(id)),
    [],
  );
  const explained = journal.flatMap((record) => (record.kind === 'change' ? [record.version] : []));
  deepEqual(
    explained,
    explained.map((_, i) => i + 1),
  );
  await server.stop();
  // What a kill tears off was never sealed, and nobody takes it for tampering.
  deepEqual((await verifyJournal(join(dataDir, 'journal'))).problems, []);
  return { postbacks: acknowledged.postbacks.size, links: acknowledged.links.size, shown: shown.size };
};
