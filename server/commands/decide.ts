import { parseArgs } from 'node:util';
import { answerAsJson } from '#core/queries';
import { decideTable, decisionsOf, saysCut } from './decideTable.ts';
import { endWith } from './ending.ts';
import { questionArguments } from './question.ts';

const usage =
  'Usage: npm run decide -- --data DIR --by source [--from 2026-09-01] [--to 2026-11-29] [--where program=prg_2093] [--json]. It ends with 1 where something is to be cut.';

const main = async (): Promise<number> => {
  const { values } = parseArgs({
    options: questionArguments,
    strict: true,
  });
  const { question, pays } = await decisionsOf({ ...values, now: Date.now() });
  process.stdout.write(
    values.json ? `${answerAsJson({ ...question, ...pays }, 2)}\n` : decideTable(question, pays),
  );
  return saysCut(pays) ? 1 : 0;
};

endWith(main(), usage);
