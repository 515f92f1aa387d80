import { parentPort } from 'node:worker_threads';
import { readPage } from '#core/link-parts';

/** Reads the pages it is given, in the order they come. */
parentPort?.on('message', ({ html, base }: { readonly html: string; readonly base: string }) =>
  parentPort?.postMessage(readPage(html, base)),
);
