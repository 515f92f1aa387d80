import type { AuditRecord, RecordVersion } from '#core/visits';
import type { Dataset } from './dataset.ts';

/** What happened around keys and exports, newest first. */
export const audits = ({ journal }: Dataset, most: number): AuditRecord[] =>
  journal.audits.slice(-most).reverse();

/** Every version of a record, newest first. */
export const history = ({ journal }: Dataset, record: string): RecordVersion[] =>
  [...(journal.versions.get(record) ?? [])].reverse();

/** The records changed in one step, each with its version before that step and the one the step made. */
export const step = (
  { journal }: Dataset,
  id: string,
): { record: string; before: object | null; after: object | null }[] =>
  id === ''
    ? []
    : [...journal.versions].flatMap(([record, list]) => {
        const at = list.findIndex((version) => version.step === id);
        const made = list[at];
        return made ? [{ record, before: list[at - 1]?.value ?? null, after: made.value }] : [];
      });
