import { createInterface } from 'node:readline';
import type { GivenBackRecord, JournalDraft, JournalRecord } from '#core/visits';
import { type Journal, NotTaken } from './journal.ts';

/** What is the same record: of one click, or at the same place before it was lost. */
const identify = (record: JournalRecord): string => {
  const { at, kind } = record;
  const click = 'click' in record && record.click !== '' ? record.click : undefined;
  return `${click ?? record.givenBack?.seq ?? record.seq} ${at} ${kind}`;
};

const draftOf = ({ seq, givenBack, ...record }: GivenBackRecord): JournalDraft => ({
  ...record,
  ...('version' in record && { version: 0 }),
  // What was given back once and lost again is the same record still.
  givenBack: givenBack ?? { seq, ...('version' in record && { version: record.version }) },
});

/**
 * Takes records that this server lost, from browsers that still have them. Each is taken once, whoever gives it back and
 * however often; it gets a place at the end of the journal and keeps its own time.
 */
export class GivenBack {
  readonly #journal: Journal;
  /** What was taken; read from the journal when first asked. */
  #known: Promise<Set<string>> | undefined;

  constructor(journal: Journal) {
    this.#journal = journal;
  }

  /**
   * Takes records and resolves once they are on disk.
   *
   * @returns how many were new, and how many had been given back before
   * @throws Error when the disk did not take all of them; then all are to be sent again
   */
  async take(records: readonly GivenBackRecord[]): Promise<{ taken: number; known: number }> {
    this.#known ??= this.#read().catch((error: unknown) => {
      // The next call reads it again.
      this.#known = undefined;
      throw error;
    });
    const known = await this.#known;
    // What memory took while the disk did not counts as known: it is not to be told before the disk has it.
    if (this.#journal.failure) throw this.#journal.failure;
    const fresh = records.filter((record) => {
      const name = identify(record);
      if (known.has(name)) return false;
      known.add(name);
      return true;
    });
    const kept = await Promise.allSettled(
      fresh.map(async (record) => {
        try {
          await this.#journal.keep(draftOf(record));
        } catch (error) {
          if (error instanceof NotTaken) known.delete(identify(record));
          throw error;
        }
      }),
    );
    const failed = kept.find((result) => result.status === 'rejected');
    if (failed) throw failed.reason;
    return { taken: fresh.length, known: records.length - fresh.length };
  }

  async #read(): Promise<Set<string>> {
    const known = new Set<string>();
    for await (const line of createInterface({ input: this.#journal.read(0), crlfDelay: Infinity })) {
      if (!line.includes('"givenBack":{')) continue;
      const record: JournalRecord = JSON.parse(line); // written by the journal
      if (record.givenBack) known.add(identify(record));
    }
    return known;
  }
}
