import type { BadRow, ClaimAnswer } from '#core/catalogue';
import { element, foldText } from '#core/catalogue';
import { inferDecimal, readReportAmount } from '#core/values';
import type { ClaimEntry } from './claim.ts';

/** The columns of a claim's rows that the network fills, and the one by which a row is known. */
export const answerColumns = {
  ref: 'claim',
  answer: 'your answer',
  amount: 'amount you accept',
  reason: 'your reason',
} as const;

const words: Readonly<Record<ClaimAnswer['kind'], RegExp>> = {
  accepted: /^(?:accept(?:ed)?|agreed?|approved?|yes|ok(?:ay)?|paid|granted)$/,
  refused: /^(?:refused?|reject(?:ed)?|declined?|denied|no|invalid)$/,
  'in part': /^(?:in part|part(?:ly|ial|ially)?)$/,
};

/** An answer that was read, by the case it is about. */
export interface ReadAnswer {
  readonly case: string;
  readonly answer: ClaimAnswer;
}

/**
 * Reads a claim's rows as the network sent them back. A row without an answer says nothing; one that is not of this claim, or
 * whose answer cannot be read surely, is a bad one.
 *
 * @param at when it came; milliseconds since 1970 UTC
 * @returns undefined where the file has no such columns
 */
export const readAnswers = (
  {
    header,
    rows,
    lines,
  }: {
    readonly header: readonly string[];
    readonly rows: readonly (readonly string[])[];
    readonly lines: readonly number[];
  },
  entries: readonly ClaimEntry[],
  at: number,
): { readonly answers: ReadAnswer[]; readonly bad: BadRow[] } | undefined => {
  const placeOf = (name: string) => header.findIndex((one) => one.trim().toLowerCase() === name);
  const [refAt, answerAt, amountAt, reasonAt] = [
    placeOf(answerColumns.ref),
    placeOf(answerColumns.answer),
    placeOf(answerColumns.amount),
    placeOf(answerColumns.reason),
  ];
  if (refAt < 0 || answerAt < 0) return undefined;
  const byRef = new Map(entries.map((entry) => [entry.line.ref, entry]));
  const decimal = inferDecimal(amountAt < 0 ? [] : rows.map((row) => row[amountAt] ?? '')) ?? '.';
  const answers: ReadAnswer[] = [];
  const bad: BadRow[] = [];
  for (const [i, row] of rows.entries()) {
    const cell = (place: number) => (row[place] ?? '').trim();
    const word = foldText(cell(answerAt));
    if (word === '') continue;
    const refuse = (path: string, message: string) =>
      bad.push({ line: element(lines[i]), cells: row, problems: [{ path, message }] });
    const entry = byRef.get(cell(refAt).toLowerCase());
    const kind = (['accepted', 'refused', 'in part'] as const).find((one) => words[one].test(word));
    if (!entry) refuse('claim', `“${cell(refAt)}” is no line of this claim.`);
    else if (!kind) refuse('answer', `“${cell(answerAt)}” is neither accepted, refused nor in part.`);
    else {
      const { claimed, claimedCurrency } = entry.line;
      const amount =
        kind === 'in part' ? readReportAmount(cell(amountAt), decimal, claimedCurrency) : undefined;
      const isPart = amount !== undefined && claimed !== null && amount > 0 && amount < claimed;
      if (kind === 'in part' && !isPart) {
        refuse('amount', `“${cell(amountAt)}” is no part of what was claimed.`);
        continue;
      }
      answers.push({
        case: entry.case.id,
        answer: {
          kind,
          reason: cell(reasonAt).slice(0, 500),
          at,
          ...(isPart && { amount }),
        },
      });
    }
  }
  return { answers, bad };
};
