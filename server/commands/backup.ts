import { parseArgs } from 'node:util';
import { dataFormatProblem } from '../dataDir.ts';
import { makeBackup } from '../rescue/index.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run backup -- --data DIR --to FILE.tar.gz [--mail-addresses]. The server may be running.';

const megabytes = (bytes: number): string => (bytes / 1024 / 1024).toFixed(1);

const main = async (): Promise<number> => {
  const { values } = parseArgs({
    options: {
      data: { type: 'string', default: './data' },
      to: { type: 'string' },
      'mail-addresses': { type: 'boolean', default: false },
    },
    strict: true,
  });
  if (values.to === undefined) throw new Error(`--to is needed. ${usage}`);
  const problem = dataFormatProblem(values.data);
  if (problem !== undefined) throw new Error(problem);
  const { manifest, files, bytes, packed } = await makeBackup({
    data: values.data,
    to: values.to,
    mailAddresses: values['mail-addresses'],
    now: Date.now(),
  });
  const seal = manifest.seal ? ` Its newest seal: ${manifest.seal.hash} (record ${manifest.seal.seq}).` : '';
  process.stdout.write(
    `${values.to}: ${files} files, ${megabytes(bytes)} MB in ${megabytes(packed)} MB.${seal}\n`,
  );
  return 0;
};

endWith(main(), usage);
