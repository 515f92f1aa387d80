import { createReadStream, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import type { Kept, RecordKind, RecordOf } from '#core/catalogue';
import { upgradeRecord } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';

/** The catalogue of a data folder as its change feed left it. Read only: a server may be running on it. */
export class KeptCatalogue {
  readonly #records = new Map<string, Pick<Kept, 'kind' | 'value'>>();

  /** @throws Error when there is no change feed in the folder */
  constructor(folder: string) {
    const path = join(folder, 'changes.ndjson');
    let text: string;
    try {
      text = readFileSync(path, 'utf8');
    } catch {
      throw new Error(`${path} cannot be read. Give the server's data folder with --data.`);
    }
    for (const line of text.split('\n')) {
      try {
        const kept: unknown = JSON.parse(line);
        if (typeof kept === 'object' && kept !== null && 'record' in kept) {
          const { record, kind, value } = kept as Kept; // a line of the feed that carries a record is a whole change
          this.#records.set(record, { kind, value });
        }
      } catch {
        // An empty line, or the last one while the server writes it.
      }
    }
  }

  /** Every record of a kind that was not removed. */
  all<K extends RecordKind>(kind: K): RecordOf[K][] {
    const found: RecordOf[K][] = [];
    for (const { kind: of, value } of this.#records.values())
      // The feed keeps nothing that did not pass the schema of its kind.
      if (of === kind && value !== null) found.push(upgradeRecord(kind, value) as RecordOf[K]);
    return found;
  }
}

/** The records of a data folder's journal, in their order. A line that is being written ends them. */
export const readJournalFiles = async function* (folder: string): AsyncGenerator<JournalRecord> {
  const path = join(folder, 'journal');
  const files = readdirSync(path)
    .filter((name) => name.endsWith('.ndjson'))
    .sort();
  let last = 0;
  for (const name of files)
    for await (const line of createInterface({
      input: createReadStream(join(path, name)),
      crlfDelay: Infinity,
    })) {
      let record: JournalRecord;
      try {
        record = JSON.parse(line);
      } catch {
        break;
      }
      // After a failed sync a file is begun anew; what both hold counts once.
      if (record.seq <= last) continue;
      last = record.seq;
      yield record;
    }
};
