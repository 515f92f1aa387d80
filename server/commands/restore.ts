import { parseArgs } from 'node:util';
import { restoreBackup } from '../rescue/index.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run restore -- --data DIR --from FILE.tar.gz [--erasures FILE] [--even-if-broken] [--even-if-other]. Stop the server first.';

const main = async (): Promise<number> => {
  const { values } = parseArgs({
    options: {
      data: { type: 'string', default: './data' },
      from: { type: 'string' },
      erasures: { type: 'string' },
      'even-if-broken': { type: 'boolean', default: false },
      'even-if-other': { type: 'boolean', default: false },
    },
    strict: true,
  });
  if (values.from === undefined) throw new Error(`--from is needed. ${usage}`);
  const { manifest, records, aside, mailAddresses, erasedAgain, problems } = await restoreBackup({
    data: values.data,
    from: values.from,
    erasures: values.erasures,
    evenIfBroken: values['even-if-broken'],
    evenIfOther: values['even-if-other'],
    now: Date.now(),
  });
  const lines = [
    `Put back into ${values.data}: ${records} records, as they were on ${new Date(manifest.at).toISOString()}.`,
    ...problems.map((problem) => `WRONG  ${problem}`),
    ...(aside === undefined ? [] : [`What was there before is in ${aside}; delete it once all is well.`]),
    ...(manifest.mailAddresses
      ? [
          `${mailAddresses} mail addresses are back, ${erasedAgain} were erased again. What was erased on another machine since is repeated with --erasures.`,
        ]
      : []),
    'Start the server: browsers then offer again what they have and the backup has not.',
  ];
  process.stdout.write(`${lines.join('\n')}\n`);
  return 0;
};

endWith(main(), usage);
