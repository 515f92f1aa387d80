import { parentPort } from 'node:worker_threads';
import { addressesIn } from '#core/articles';
import { readPage } from '#core/link-parts';
import type { PageToRead } from './reader.ts';

/** Reads the pages it is given, in the order they come. */
parentPort?.on('message', ({ html, base, what }: PageToRead) =>
  parentPort?.postMessage(what === 'facts' ? readPage(html, base) : addressesIn(html, base)),
);
parentPort?.postMessage('ready');
