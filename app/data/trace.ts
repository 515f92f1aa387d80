import type { TracedHop, TraceEnd } from '#core/link-parts';
import { readNdjson } from '#core/formats';
import { key } from './server.ts';

/**
 * Traces an address through the server and yields each hop as it is known, then how it ended.
 *
 * @param link the link it is traced for; what came of it is then kept with that link
 * @param asPreview ask as a robot that draws previews, which stays at the first page it is given; nothing is kept of that
 * @throws Error when the server does not answer or refuses
 */
export const traceSteps = async function* (
  url: string,
  toOrder: boolean,
  signal: AbortSignal,
  link = '',
  asPreview = false,
): AsyncGenerator<TracedHop | TraceEnd> {
  const response = await fetch('/api/trace', {
    method: 'POST',
    headers: { Authorization: `Bearer ${key.value}`, 'Content-Type': 'application/json' },
    body: JSON.stringify({ url, toOrder, link, asPreview }),
    signal,
  });
  if (!response.ok || !response.body) throw new Error(`The server answered ${response.status}.`);
  const pieces = response.body.pipeThrough(new TextDecoderStream());
  for await (const steps of readNdjson<TracedHop | TraceEnd>(pieces)) yield* steps;
};

/** A whole trace; undefined when the server did not answer. */
export const traceOnce = async (
  url: string,
  link = '',
  asPreview = false,
): Promise<(TraceEnd & { hops: TracedHop[] }) | undefined> => {
  const hops: TracedHop[] = [];
  try {
    for await (const step of traceSteps(url, false, AbortSignal.timeout(60_000), link, asPreview))
      if (step.kind === 'hop') hops.push(step);
      else return { ...step, hops };
  } catch {
    return undefined;
  }
  return undefined;
};
