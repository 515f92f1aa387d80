import { createReadStream, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { RecordKind, RecordOf, Settings, StoredChange } from '#core/catalogue';
import { upgradeRecord } from '#core/catalogue';
import { parseNdjson, readNdjson } from '#core/formats';
import type { CatalogueRecords } from '#core/queries';
import { Dataset } from '#core/queries';
import type { JournalRecord } from '#core/visits';
import { dataFormatProblem } from './dataDir.ts';
import type { Removal } from './journal/index.ts';
import { inOrder, readCounts, readRemovals } from './journal/index.ts';

/** The catalogue of a data folder as its change feed left it. Read only: a server may be running on it. */
export class StoredCatalogue {
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

/**
 * The catalogue of a data folder, to be read.
 *
 * @throws Error with one clear line when it cannot be
 */
export const catalogueOf = (folder: string): StoredCatalogue => {
  const problem = dataFormatProblem(folder);
  if (problem !== undefined) throw new Error(problem);
  return new StoredCatalogue(folder);
};

/**
 * The records of one file of a journal.
 *
 * @throws Error with one line where a whole line of it is no record
 */
const readJournalFile = async function* (path: string): AsyncGenerator<JournalRecord> {
  try {
    for await (const records of readNdjson<JournalRecord>(createReadStream(path, 'utf8'))) yield* records;
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    throw new Error(
      `${path} holds a line that is no record: it was damaged. npm run verify says where; a backup of before has it whole.`,
      { cause: error },
    );
  }
};

/**
 * The records of a data folder's journal, in their order. A line that is being written ends them.
 *
 * @param after the newest record that is not wanted; files with older ones alone are not opened
 */
export const readJournalFiles = async function* (
  path: string,
  removals: readonly Removal[],
  after = 0,
): AsyncGenerator<JournalRecord> {
  let last = after;
  const removed = new Set(removals.flatMap(({ files }) => files));
  const files = inOrder(readdirSync(path)).filter(({ name }) => !removed.has(name));
  const names = files.flatMap(({ name }, i) => {
    const next = files[i + 1]?.first ?? Infinity;
    return next <= after ? [] : [name];
  });
  for (const name of [...removals.map(({ kept }) => kept.file), ...names])
    for await (const record of readJournalFile(join(path, name))) {
      // After a failed sync a file is begun anew; what both hold counts once.
      if (record.seq <= last) continue;
      last = record.seq;
      yield record;
    }
};

/**
 * What questions rest on of the catalogue of a data folder.
 *
 * @throws Error with one clear line when it cannot be read
 */
export const recordsOf = (
  folder: string,
): { readonly records: CatalogueRecords; readonly rules: Settings['classification'] } => {
  const catalogue = catalogueOf(folder);
  return {
    records: {
      domains: catalogue.all('domain'),
      networks: catalogue.all('network'),
      programs: catalogue.all('program'),
      accounts: catalogue.all('account'),
      links: catalogue.all('link'),
      reports: catalogue.all('report'),
      decisions: catalogue.all('decision'),
      months: catalogue.all('month'),
      payments: catalogue.all('payment'),
      sources: catalogue.all('source'),
      costs: catalogue.all('cost'),
      promotions: catalogue.all('promotion'),
      rates: catalogue.all('rate'),
    },
    rules: catalogue.all('settings')[0]?.classification,
  };
};

/**
 * A data folder as a dataset, to be asked what a screen asks. Read only: a server may be running on it.
 *
 * @throws Error with one clear line when it cannot be read
 */
export const openDataset = async (folder: string): Promise<Dataset> => {
  const { records, rules } = recordsOf(folder);
  const data = new Dataset();
  data.setRules(rules);
  data.setRecords(records);
  const journal = join(folder, 'journal');
  const removals = await readRemovals(journal);
  for await (const record of readJournalFiles(journal, removals)) data.add([record]);
  data.rolledUp = { before: removals.at(-1)?.until ?? 0, counts: await readCounts(journal, removals) };
  return data;
};
