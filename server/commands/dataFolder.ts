import { createReadStream, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { RecordKind, RecordOf, StoredChange } from '#core/catalogue';
import { upgradeRecord } from '#core/catalogue';
import { parseNdjson, readNdjson } from '#core/formats';
import { Dataset } from '#core/queries';
import type { JournalRecord } from '#core/visits';
import { dataFormatProblem } from '../dataDir.ts';

/** The catalogue of a data folder as its change feed left it. Read only: a server may be running on it. */
class StoredCatalogue {
  readonly #records = new Map<string, Pick<StoredChange, 'kind' | 'value'>>();

  /** @throws Error when there is no change feed in the folder */
  constructor(folder: string) {
    const path = join(folder, 'changes.ndjson');
    let text: string;
    try {
      text = readFileSync(path, 'utf8');
    } catch {
      throw new Error(`${path} cannot be read. Give the server's data folder with --data.`);
    }
    // Of a change that was superseded only its ID stays.
    for (const stored of parseNdjson<StoredChange | Pick<StoredChange, 'change'>>(text))
      if ('record' in stored) this.#records.set(stored.record, stored);
  }

  /** Every record of a kind that was not removed. */
  all<K extends RecordKind>(kind: K): RecordOf[K][] {
    const found: RecordOf[K][] = [];
    for (const stored of this.#records.values())
      // The feed keeps nothing that did not pass the schema of its kind.
      if (stored.kind === kind && stored.value !== null)
        found.push(upgradeRecord(kind, stored.value) as RecordOf[K]);
    return found;
  }
}

/** The records of a data folder's journal, in their order. A line that is being written ends them. */
const readJournalFiles = async function* (folder: string): AsyncGenerator<JournalRecord> {
  const path = join(folder, 'journal');
  const files = readdirSync(path)
    .filter((name) => name.endsWith('.ndjson'))
    .sort();
  let last = 0;
  for (const name of files)
    for await (const records of readNdjson<JournalRecord>(createReadStream(join(path, name), 'utf8')))
      for (const record of records) {
        // After a failed sync a file is begun anew; what both hold counts once.
        if (record.seq <= last) continue;
        last = record.seq;
        yield record;
      }
};

/**
 * A data folder as a dataset, to be asked what a screen asks. Read only: a server may be running on it.
 *
 * @throws Error with one clear line when it cannot be read
 */
export const openDataset = async (folder: string): Promise<Dataset> => {
  const problem = dataFormatProblem(folder);
  if (problem !== undefined) throw new Error(problem);
  const catalogue = new StoredCatalogue(folder);
  const data = new Dataset();
  data.setRules(catalogue.all('settings')[0]?.classification);
  data.setRecords({
    domains: catalogue.all('domain'),
    networks: catalogue.all('network'),
    programs: catalogue.all('program'),
    accounts: catalogue.all('account'),
    links: catalogue.all('link'),
    reports: catalogue.all('report'),
    decisions: catalogue.all('decision'),
    months: catalogue.all('month'),
    payments: catalogue.all('payment'),
  });
  for await (const record of readJournalFiles(folder)) data.add([record]);
  return data;
};
