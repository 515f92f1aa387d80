import type { ClassificationRules } from '../classificationRules.ts';
import { defaultRules } from '../classificationRules.ts';
import { Classification } from '../classification.ts';
import { makeIsRobot, SortedJournal } from '../journal.ts';
import type { JournalRecord } from '../records.ts';

/** Records sorted and their requests classified, as matching takes them. */
export const classified = (
  records: Iterable<JournalRecord>,
  rules: ClassificationRules = defaultRules,
  isMail?: (source: string) => boolean,
): Pick<SortedJournal, 'columns' | 'postbacks' | 'traces' | 'lost'> & {
  readonly classification: Classification;
} => {
  const { columns, postbacks, traces, lost } = new SortedJournal(records);
  const classification = new Classification(columns, makeIsRobot(), rules, isMail);
  classification.update();
  return { columns, postbacks, traces, lost, classification };
};
