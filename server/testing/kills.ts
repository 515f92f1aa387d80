import { deepEqual, equal, ok } from 'node:assert/strict';
import { Agent, get } from 'node:http';
import type { JournalRecord } from '#core/visits';
import { send } from '../../standins/index.ts';
import { call, changeOf, fillFirst, readJournal, sendChanges } from '../client.ts';
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
  const acknowledged = new Set<string>();
  const acknowledgedLinks = new Set<string>();
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

  let txn = 0;
  for (let round = 0; round < rounds; round++) {
    const agent = new Agent({ keepAlive: true });
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

    const postbacks = async () => {
      while (running) {
        const id = `T${++txn}`;
        const answer = await send(`http://localhost:${port}/postback/${key}?txn=${id}&amount=1`, {
          agent,
        }).catch(() => undefined);
        if (answer?.status === 200) acknowledged.add(id);
      }
    };
    const hops = async () => {
      while (running)
        await send(`http://see.nightledge.localhost:${port}/saturn~load`, { agent }).catch(() => undefined);
    };
    const changes = async () => {
      for (let n = 0; running; n++) {
        const id = `lnk_r${round}n${n}`;
        const made = changeOf('link', { ...link, id, slug: `r${round}-${n}`, aliases: [] });
        const answer = await sendChanges(server, [made]).catch(() => undefined);
        if (answer?.refused.length === 0) acknowledgedLinks.add(id);
      }
    };
    const reads = async () => {
      while (running) {
        const answer = await call(server, 'GET', `/journal?after=${Math.max(0, shown.size - 50)}`).catch(
          () => undefined,
        );
        if (answer?.status === 200) note(answer.body);
      }
    };
    const work = [postbacks(), postbacks(), postbacks(), hops(), hops(), changes(), reads()];
    await new Promise((resolve) => setTimeout(resolve, 150 + Math.random() * 250));
    server.child.kill('SIGKILL');
    // The next one is started at once: the killed one may not have been reaped yet, and still stands in the lock.
    const next = startProcess({ dataDir, port });
    running = false;
    await Promise.all(work);
    live.destroy();
    agent.destroy();
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

  const kept = new Map<string, number>();
  for (const record of journal)
    if (record.kind === 'postback') {
      const id = new URLSearchParams(record.query).get('txn') ?? '';
      kept.set(id, (kept.get(id) ?? 0) + 1);
    }
  ok(acknowledged.size > rounds * 5);
  for (const id of acknowledged) deepEqual([id, kept.get(id)], [id, 1]);

  const records = new Set<string>();
  for (let after = 0, more = true; more;) {
    const page = JSON.parse((await call(server, 'GET', `/changes?after=${after}`)).body) as {
      changes: { record: string }[];
      version: number;
      more: boolean;
    };
    for (const { record } of page.changes) records.add(record);
    ({ version: after, more } = page);
  }
  ok(acknowledgedLinks.size > rounds);
  deepEqual(
    [...acknowledgedLinks].filter((id) => !records.has(id)),
    [],
  );
  const explained = journal.flatMap((record) => (record.kind === 'change' ? [record.version] : []));
  deepEqual(
    explained,
    explained.map((_, i) => i + 1),
  );
  await server.stop();
  return { postbacks: acknowledged.size, links: acknowledgedLinks.size, shown: shown.size };
};
