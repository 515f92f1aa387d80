import { Agent, get } from 'node:http';
import { describe, expect, it } from 'vitest';
import type { JournalRecord } from '#core/visits';
import { send } from '../standins/index.ts';
import { call, changeOf, fillFirst, readJournal, sendChanges } from './client.ts';
import { freshFolder, freePort, startProcess } from './process.ts';

const rounds = 20;

describe('kill -9 during load', () => {
  it(`loses nothing that was acknowledged or shown, ${rounds} times`, { timeout: 180_000 }, async () => {
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
        if (before !== undefined) expect(line).toBe(before);
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
      await server.stop('SIGKILL');
      running = false;
      await Promise.all(work);
      live.destroy();
      agent.destroy();
      server = await startProcess({ dataDir, port });
    }

    const journal = await readJournal(server);
    expect(journal.map((record) => record.seq)).toEqual(journal.map((_, i) => i + 1));
    const bySeq = new Map(journal.map((record): [number, JournalRecord] => [record.seq, record]));
    expect(shown.size).toBeGreaterThan(rounds * 10);
    for (const [seq, line] of shown) expect(bySeq.get(seq)).toEqual(JSON.parse(line));

    const kept = new Map<string, number>();
    for (const record of journal)
      if (record.kind === 'postback') {
        const id = new URLSearchParams(record.query).get('txn') ?? '';
        kept.set(id, (kept.get(id) ?? 0) + 1);
      }
    expect(acknowledged.size).toBeGreaterThan(rounds * 5);
    for (const id of acknowledged) expect([id, kept.get(id)]).toEqual([id, 1]);

    const { changes } = JSON.parse((await call(server, 'GET', '/changes?after=0')).body) as {
      changes: { record: string }[];
    };
    const records = new Set(changes.map((change) => change.record));
    expect(acknowledgedLinks.size).toBeGreaterThan(rounds);
    expect([...acknowledgedLinks].filter((id) => !records.has(id))).toEqual([]);
    const explained = journal.flatMap((record) => (record.kind === 'change' ? [record.edition] : []));
    expect(explained).toEqual(explained.map((_, i) => i + 1));
    await server.stop();
  });
});
