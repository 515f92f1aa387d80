import { parseArgs } from 'node:util';
import { join } from 'node:path';
import { verifyMonths } from '../closedMonths.ts';
import { dataFormatProblem } from '../dataDir.ts';
import type { Verification } from '../journal/index.ts';
import { verifyJournal } from '../journal/index.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run verify -- --data DIR [--seal HASH] [--json]. Exit 1: something is not as it was sealed.';

/** A verification as text for a terminal. */
export const verificationText = (found: Verification & { readonly months: number }): string => {
  const { problems, notes, vouched, given, newest, files, records, unsealed } = found;
  const lines = [
    `${records} records in ${files} files.`,
    ...problems.map((problem) => `WRONG  ${problem}`),
    ...notes.map((note) => `note   ${note}`),
    vouched
      ? `By its own chain, every record up to ${vouched.seq} is as it was sealed on ${new Date(vouched.at).toISOString()}.`
      : 'By its own chain, no record is vouched for.',
  ];
  if (unsealed > 0) lines.push(`${unsealed} records behind that are not sealed yet.`);
  if (given?.found)
    lines.push(
      problems.length === 0
        ? `The seal you gave is in the chain: every record up to ${given.seq} is as it was on ${new Date(given.at).toISOString()}, whoever could write here since.`
        : `The seal you gave is in the chain (record ${given.seq}, ${new Date(given.at).toISOString()}).`,
    );
  else if (!given)
    lines.push(
      'Whoever can write here could have made the chain anew: give a seal that was kept elsewhere with --seal.',
    );
  if (found.months > 0) lines.push(`Closed months: ${found.months} checked.`);
  if (newest !== undefined) lines.push(`Newest seal: ${newest}`);
  return `${lines.join('\n')}\n`;
};

const main = async (): Promise<number> => {
  const { values } = parseArgs({
    options: {
      data: { type: 'string', default: './data' },
      seal: { type: 'string' },
      json: { type: 'boolean', default: false },
    },
    strict: true,
  });
  const given = values.seal?.trim().toLowerCase();
  if (given !== undefined && !/^[0-9a-f]{16,64}$/.test(given))
    throw new Error(`--seal takes the 64 hex digits of a seal, or its first 16 or more. ${usage}`);
  const problem = dataFormatProblem(values.data);
  if (problem !== undefined) throw new Error(problem);
  const journal = await verifyJournal(join(values.data, 'journal'), given);
  const { months, problems, notes } = await verifyMonths(values.data);
  const found = {
    ...journal,
    months,
    problems: [...journal.problems, ...problems],
    notes: [...journal.notes, ...notes],
  };
  process.stdout.write(values.json ? `${JSON.stringify(found, undefined, 2)}\n` : verificationText(found));
  return found.problems.length > 0 ? 1 : 0;
};

endWith(main(), usage);
