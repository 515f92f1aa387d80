import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { builtFile } from '../built.ts';
import { freshFolder } from '../testing/process.ts';
import { Pages } from './index.ts';
import { makeReader } from './reader.ts';

/** A worker that does as the page says: computes for ever, fills its memory, ends, or answers. */
const file = join(freshFolder(), 'reader.mjs');
writeFileSync(
  file,
  `import { parentPort } from 'node:worker_threads';
parentPort.on('message', ({ html }) => {
  if (html === 'for ever') for (;;);
  if (html === 'memory') for (const all = []; ;) all.push(new Array(1e5).fill(1));
  if (html === 'ends') process.exit(1);
  if (html === 'throws') throw new Error('a fault');
  parentPort.postMessage({ title: html });
});
parentPort.postMessage('ready');
`,
);
/** One that takes a second to load what it reads with. */
const slow = join(freshFolder(), 'slow.mjs');
writeFileSync(
  slow,
  `import { parentPort } from 'node:worker_threads';
parentPort.on('message', ({ html }) => parentPort.postMessage({ title: html }));
for (const end = performance.now() + 1000; performance.now() < end;);
parentPort.postMessage('ready');
`,
);

describe('the worker that waits for the network', () => {
  it('is replaced when it does not answer or ends, and whoever waits is told', async () => {
    const frozen = join(freshFolder(), 'pages.mjs');
    writeFileSync(
      frozen,
      `import { parentPort } from 'node:worker_threads';
parentPort.on('message', (message) => {
  if (message.ping) parentPort.postMessage({ pong: true });
  else if (message.job?.url === 'freeze') for (;;);
  else if (message.job?.url === 'end') process.exit(1);
  else if (message.job) parentPort.postMessage({ id: message.id, end: true, failed: 'It answered.' });
});
`,
    );
    const replaced: object[] = [];
    const pages = new Pages({ worker: frozen, log: (_, detail) => replaced.push(detail) });
    const because = async (url: string) => (await pages.trace(url, { localPorts: [] })).because;
    expect(await because('answer')).toBe('It answered.');
    const began = performance.now();
    expect(await because('freeze')).toBe('What came back could not be worked through.');
    expect(performance.now() - began).toBeLessThan(6000);
    expect(await because('end')).toBe('What came back could not be worked through.');
    expect(await because('answer')).toBe('It answered.');
    expect(replaced).toEqual([{ why: 'it did not answer' }, { why: 'it ended' }]);
    await pages.close();
  });
});

describe('a page', () => {
  it('is read by one that loads slowly, as on a busy machine', async () => {
    expect(await makeReader(slow, 500).facts('page', '')).toEqual({ title: 'page' });
  });

  it.each(['for ever', 'memory', 'ends', 'throws'])(
    'that makes its reader go on %s gives nothing, and the next is read',
    async (html) => {
      const read = makeReader(file, 1500).facts;
      const began = performance.now();
      const both = await Promise.all([read(html, ''), read('next', '')]);
      expect(both).toEqual([undefined, { title: 'next' }]);
      expect(performance.now() - began).toBeLessThan(8000);
    },
  );

  it('is read as it is by the reader that ships', async () => {
    const read = makeReader(builtFile('pageReader.js'), 2000).facts;
    expect(await read('<title>Moon filter</title>', 'https://a.example/')).toMatchObject({
      title: 'Moon filter',
    });
    // 128 KB that took a quadratic search for ever.
    const script = `<script>${'location.replace("a"'.repeat(6900)}</script>`;
    expect(await read(script, 'https://a.example/')).toMatchObject({ title: '' });
  });
});
