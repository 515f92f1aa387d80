import { parentPort, workerData } from 'node:worker_threads';
import { wordsOf } from './ask.ts';
import { crawl } from './crawl.ts';
import { checkDomain, overTheNetwork } from './domainCheck.ts';
import type { FromWorker, Job, Step, ToWorker, WorkerStart } from './jobs.ts';
import { askPicture } from './picture.ts';
import { makeReader } from './reader.ts';
import { sendSample } from './sample.ts';
import { traceSteps } from './trace.ts';

/** Asks the network for the hop process; what it hears is read in a worker of its own. */
const { deadlines, reader, readMs } = workerData as WorkerStart; // given by whoever starts it
const { requestMs } = deadlines;
const read = makeReader(reader, readMs);
const running = new Map<number, AbortController>();
/** By job: goes on once its last step was taken. */
const takers = new Map<number, () => void>();
const say = (message: FromWorker) => parentPort?.postMessage(message);

const work = async (
  job: Job,
  give: (step: Step) => void,
  taken: () => Promise<void>,
  signal: AbortSignal,
): Promise<void> => {
  switch (job.kind) {
    case 'trace':
      for await (const step of traceSteps(job.url, job.bounds, {
        signal,
        toOrder: job.toOrder,
        asPreview: job.asPreview,
        deadlines,
        read: read.facts,
      }))
        give(step);
      break;
    case 'crawl':
      for await (const step of crawl(job, { requestMs, signal, addresses: read.addresses })) {
        give(step);
        // Pages are large: none is fetched before the one before it was taken.
        await taken();
      }
      break;
    case 'picture':
      give(await askPicture(job.url, job.bounds, deadlines));
      break;
    case 'domain':
      give(await checkDomain(job, overTheNetwork(job.port, requestMs)));
      break;
    case 'sample':
      give(await sendSample(job.sample, job.key, job, requestMs));
  }
};

parentPort?.on('message', (message: ToWorker) => {
  if ('ping' in message) say({ pong: true });
  else if ('stop' in message) {
    running.get(message.stop)?.abort();
    takers.get(message.stop)?.();
  } else if ('taken' in message) takers.get(message.taken)?.();
  else {
    const { id, job } = message;
    const stop = new AbortController();
    running.set(id, stop);
    const taken = async () => {
      if (!stop.signal.aborted) await new Promise<void>((resolve) => takers.set(id, resolve));
    };
    work(job, (step) => say({ id, step }), taken, stop.signal)
      .then(
        () => say({ id, end: true }),
        (error: unknown) => say({ id, end: true, failed: wordsOf(error) }),
      )
      .finally(() => {
        running.delete(id);
        takers.delete(id);
      });
  }
});
