import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it, vi } from 'vitest';
import { send } from '../standins/index.ts';
import { call, changeOf, fillFirst, readJournal } from './client.ts';
import { startProcess } from './testing/process.ts';
import { smallDisk } from './testing/smallDisk.ts';

describe('a full disk', () => {
  it('stops postbacks from being acknowledged and nobody from hopping, and recovers', async () => {
    const disk = smallDisk();
    const server = await startProcess({
      dataDir: disk.folder,
      command: disk.command,
      env: { DISK_RESERVE_MB: '0' },
    });
    const { key, link } = await fillFirst(server);
    const hop = (name: string) => send(`http://see.nightledge.localhost:${server.port}/saturn~${name}`);
    const postback = (id: string, more = '') =>
      send(`http://localhost:${server.port}/postback/${key}?txn=${id}${more}`);
    const health = async () =>
      JSON.parse((await call(server, 'GET', '/health')).body) as { ok: boolean; problem?: string };

    expect((await postback('before')).status).toBe(200);
    if (disk.canRecover)
      try {
        writeFileSync(join(disk.folder, 'ballast'), Buffer.alloc(1024 * 1024));
      } catch {
        // Writing until nothing more fits is the point.
      }
    const filler = `&x=${'y'.repeat(8000)}`;
    let refused = 0;
    for (let n = 0; n < 60 && refused < 3; n++)
      if ((await postback(`fill${n}`, filler)).status === 503) refused += 1;
    expect(refused).toBe(3);

    for (let n = 0; n < 20; n++) expect((await hop(`full${n}`)).status).toBe(307);
    expect(await health()).toMatchObject({
      ok: false,
      problem: expect.stringContaining('disk full') as string,
    });
    const change = changeOf('link', { ...link, notes: 'z'.repeat(4000) }, 2);
    const fails = Array.from({ length: 30 }, (_, n) =>
      changeOf('link', { ...link, id: `lnk_f${n}`, slug: `f${n}`, aliases: [], notes: 'z'.repeat(4000) }),
    );
    expect((await call(server, 'POST', '/changes', { changes: [change, ...fails] })).status).toBe(503);
    expect((await call(server, 'GET', '/changes?after=0')).body).not.toContain('zzzz');

    if (disk.canRecover) {
      rmSync(join(disk.folder, 'ballast'));
      await vi.waitFor(async () => expect(await health()).toMatchObject({ ok: true }), { timeout: 5000 });
      expect((await postback('after')).status).toBe(200);
      expect((await call(server, 'POST', '/changes', { changes: [change] })).status).toBe(200);
      await vi.waitFor(async () => expect((await readJournal(server)).at(-1)?.kind).toBe('change'));
      const journal = await readJournal(server);
      expect(journal.map((r) => r.seq)).toEqual(journal.map((_, i) => i + 1));
      const hops = journal.flatMap((r) => (r.kind === 'hop' ? [r.source] : []));
      expect(hops).toEqual(Array.from({ length: 20 }, (_, n) => `full${n}`));
    }
    await server.stop(disk.canRecover ? 'SIGTERM' : 'SIGKILL');
    disk.close();
  });
});
