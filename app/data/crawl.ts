import { readNdjson } from '#core/formats';
import type { CrawlStep } from '#core/link-parts';
import { key } from './server.ts';

/**
 * Has the server read a site and yields each page as it comes, then how it ended.
 *
 * @throws Error with a sentence when the server does not answer or refuses
 */
export const crawlSteps = async function* (site: string, signal: AbortSignal): AsyncGenerator<CrawlStep> {
  const response = await fetch('/api/crawl', {
    method: 'POST',
    headers: { Authorization: `Bearer ${key.value}`, 'Content-Type': 'application/json' },
    body: JSON.stringify({ site }),
    signal,
  });
  if (!response.ok || !response.body) {
    const problem = (await response.json().catch(() => ({}))) as { detail?: unknown };
    throw new Error(
      typeof problem.detail === 'string' ? problem.detail : `The server answered ${response.status}.`,
    );
  }
  const pieces = response.body.pipeThrough(new TextDecoderStream());
  for await (const steps of readNdjson<CrawlStep>(pieces)) yield* steps;
};
