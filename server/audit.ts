import type { AuditEvent, JournalDraft } from '#core/visits';

/** How often repetitions of one event are told, in milliseconds. */
const tellMs = 60_000;

interface Repeated {
  count: number;
  at: number;
  until: number;
  detail: string;
}

/**
 * Writes down what happens around keys and around what leaves the server. The first of a kind is written at once; those
 * that follow within a minute become one record, so that nobody can fill the journal with them.
 */
export class Audit {
  readonly #append: (draft: JournalDraft) => void;
  readonly #repeated = new Map<AuditEvent, Repeated>();
  readonly #timers = new Map<AuditEvent, NodeJS.Timeout>();

  constructor(append: (draft: JournalDraft) => void) {
    this.#append = append;
  }

  /** @param at milliseconds since 1970 UTC */
  note(event: AuditEvent, detail: string, at: number): void {
    if (!this.#timers.has(event)) {
      this.#write(event, { count: 1, at, until: at, detail });
      this.#wait(event);
      return;
    }
    const repeated = this.#repeated.get(event);
    if (repeated) {
      repeated.count += 1;
      repeated.until = at;
      repeated.detail = detail;
    } else this.#repeated.set(event, { count: 1, at, until: at, detail });
  }

  /** Writes what is still to be told. */
  close(): void {
    for (const timer of this.#timers.values()) clearTimeout(timer);
    this.#timers.clear();
    for (const [event, repeated] of this.#repeated) this.#write(event, repeated);
    this.#repeated.clear();
  }

  #wait(event: AuditEvent): void {
    const timer = setTimeout(() => {
      const repeated = this.#repeated.get(event);
      this.#repeated.delete(event);
      if (repeated) {
        this.#write(event, repeated);
        this.#wait(event);
      } else this.#timers.delete(event);
    }, tellMs);
    this.#timers.set(event, timer);
  }

  #write(event: AuditEvent, repeated: Repeated): void {
    this.#append({ kind: 'audit', event, ...repeated });
  }
}
