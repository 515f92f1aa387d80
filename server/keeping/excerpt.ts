import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { finished } from 'node:stream/promises';
import type { JournalRecord } from '#core/visits';
import { isVisit } from '#core/visits';
import { openDataset } from '../dataFolder.ts';
import { syncFolder } from '../dataDir.ts';
import type { RemovedPart } from '../journal/index.ts';

/** Files of the journal that are to go: those of the records from `first` to `last`. */
export interface ToRemove {
  readonly files: readonly string[];
  readonly first: number;
  readonly last: number;
  /** Requests before this moment become daily counts; milliseconds since 1970 UTC, a midnight of UTC. */
  readonly before: number;
}

/** What stays of them: records as they were, and the daily counts of the requests that go. */
export interface Excerpt {
  readonly kept: RemovedPart;
  readonly counts: RemovedPart;
}

/** Writes lines into a file and gives what it then holds; it is on disk when this resolves. */
const writeLines = async (
  folder: string,
  file: string,
  lines: AsyncIterable<string> | Iterable<string>,
): Promise<RemovedPart> => {
  const out = createWriteStream(join(folder, file), { mode: 0o600, flush: true });
  const hash = createHash('sha256');
  let bytes = 0;
  for await (const line of lines) {
    const written = Buffer.from(`${line}\n`);
    hash.update(written);
    bytes += written.length;
    if (!out.write(written)) await new Promise<void>((resolve) => out.once('drain', () => resolve()));
  }
  out.end();
  await finished(out);
  return { file, bytes, sha256: hash.digest('hex') };
};

/**
 * Writes down what stays of files that are about to go: every conversion, change and other record that is no request, the
 * requests conversions rest on with all of their visitors, and of the rest how many there were by day, link and source. The
 * files themselves are left alone. It reads the whole journal, so it is for a thread of its own.
 *
 * @param dataDir the data folder; a server may be running on it
 */
export const writeExcerpt = async (
  dataDir: string,
  { files, first, last, before }: ToRemove,
): Promise<Excerpt> => {
  const folder = join(dataDir, 'journal');
  const data = await openDataset(dataDir);
  const counts = data.rollUp(before, last);
  const stays = new Set<number>();
  const clicks = new Set<string>();
  const { columns } = data.journal;
  for (let row = 0; row < columns.rows; row++) {
    const seq = columns.seq(row);
    if (seq < first || seq > last) continue;
    stays.add(seq);
    clicks.add(columns.click(row));
  }
  const lines = async function* () {
    for (const file of files)
      for await (const line of createInterface({
        input: createReadStream(join(folder, file)),
        crlfDelay: Infinity,
      })) {
        const record: JournalRecord = JSON.parse(line); // a sealed file that was just found whole
        const isKept = isVisit(record)
          ? stays.has(record.seq)
          : record.kind !== 'second' || clicks.has(record.click);
        if (isKept && record.seq <= last) yield line;
      }
  };
  const range = [first, last].map((seq) => String(seq).padStart(12, '0')).join('-');
  const excerpt = {
    kept: await writeLines(folder, `${range}.kept.ndjson`, lines()),
    counts: await writeLines(
      folder,
      `${range}.counts.ndjson`,
      counts.map((count) => JSON.stringify(count)),
    ),
  };
  await syncFolder(folder);
  return excerpt;
};
