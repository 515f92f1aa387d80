import { createHash } from 'node:crypto';
import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { parseNdjson } from '#core/formats';
import { Dataset } from '#core/queries';
import type { JournalRecord } from '#core/visits';
import { decodeSegment, takeSegment } from '#core/visits';
import { columnsFolder, madeParts } from '../columns/index.ts';
import { readJournalFiles, recordsOf } from '../dataFolder.ts';
import { readCounts, readRemovals } from '../journal/index.ts';

/** A data folder as a dataset that takes what was written since each time it is asked for. */
export class FollowedFolder {
  readonly #folder: string;
  #data = new Dataset();
  #of: string | undefined;
  #changes = '';

  constructor(folder: string) {
    this.#folder = folder;
  }

  /**
   * The dataset as it is now.
   *
   * @param of tells the journal from others, and from itself before something of it was removed
   * @param seq its newest record
   * @throws Error with one clear line when the folder cannot be read
   */
  async now(of: string, seq: number): Promise<Dataset> {
    if (of !== this.#of) await this.#begin(of);
    this.#takeCatalogue();
    if (seq > this.#data.last) {
      const journal = join(this.#folder, 'journal');
      const removals = await readRemovals(journal);
      for await (const record of readJournalFiles(journal, removals, this.#data.last))
        this.#data.add([record]);
    }
    return this.#data;
  }

  /** Begins with what there is as columns, which is read at once; lines follow from there. */
  async #begin(of: string): Promise<void> {
    this.#data = new Dataset();
    this.#changes = '';
    const journal = join(this.#folder, 'journal');
    const removals = await readRemovals(journal);
    this.#data.rolledUp = {
      before: removals.at(-1)?.until ?? 0, // nothing was removed
      counts: await readCounts(journal, removals),
    };
    const folder = columnsFolder(this.#folder);
    for (const { name, last } of madeParts(this.#folder, of)) {
      takeSegment(
        this.#data.journal.columns,
        decodeSegment(new Uint8Array(readFileSync(join(folder, `${name}.fhs`))), (bytes) =>
          createHash('sha256').update(bytes).digest(),
        ),
      );
      this.#data.addStored(parseNdjson<JournalRecord>(readFileSync(join(folder, `${name}.ndjson`), 'utf8')));
      this.#data.rowsCame(last);
    }
    this.#of = of;
  }

  /** Takes the catalogue anew where its feed was written to. */
  #takeCatalogue(): void {
    const { size, mtimeMs } = statSync(join(this.#folder, 'changes.ndjson'));
    const changes = `${size} ${mtimeMs}`;
    if (changes === this.#changes) return;
    const { records, rules } = recordsOf(this.#folder);
    this.#data.setRules(rules);
    this.#data.setRecords(records);
    this.#changes = changes;
  }
}
