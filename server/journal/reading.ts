import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { excerptLines, healedLines } from './damage.ts';
import type { JournalFile } from './files.ts';

/** The lines of a journal's files behind a record, up to another one, in the pieces in which the disk gives them. */
export const linesAfter = async function* (
  folder: string,
  files: readonly JournalFile[],
  after: number,
  end: number,
): AsyncGenerator<Buffer> {
  for (const [i, file] of files.entries()) {
    const last = (files[i + 1]?.first ?? end + 1) - 1;
    if (last <= after) continue;
    if (file.isExcerpt) {
      yield* excerptLines(join(folder, file.name), { first: Math.max(file.first, after + 1), last });
      continue;
    }
    if (file.damaged !== undefined) {
      yield* healedLines(join(folder, file.name), { first: Math.max(file.first, after + 1), last });
      continue;
    }
    if (file.bytes === 0) continue;
    let skip = Math.max(0, after + 1 - file.first);
    for await (const chunk of createReadStream(join(folder, file.name), { end: file.bytes - 1 })) {
      let part = chunk as Buffer; // a stream without encoding gives buffers
      while (skip > 0) {
        const line = part.indexOf(10);
        skip -= line < 0 ? 0 : 1;
        part = line < 0 ? part.subarray(part.length) : part.subarray(line + 1);
        if (line < 0) break;
      }
      if (skip === 0 && part.length > 0) yield part;
    }
  }
};
