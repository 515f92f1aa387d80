import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import type { RecordKind, RecordOf } from '#core/catalogue';
import { readCatalogue } from '#core/formats';
import { answersFrom } from '#core/queries';
import { readConfig } from '../config.ts';
import { catalogueOf, openDataset } from '../dataFolder.ts';
import { endWith } from './ending.ts';
import type { FilePlaced } from './placeFiles.ts';
import { placeFiles } from './placeFiles.ts';

const usage =
  'Usage: npm run place -- FILE… [--write] [--json] [--source NAME] [--data DIR | --catalogue FILE]. Exit 0: nothing to do, 1: something was found, 2: something could not be read.';

/** The records of an exported catalogue, by kind. */
const fromFile = (path: string): (<K extends RecordKind>(kind: K) => RecordOf[K][]) => {
  // Keys are not needed to read links; a file without them is as good.
  const secrets = { key: 'x'.repeat(24), pixelKey: 'y'.repeat(24) };
  const read = readCatalogue(readFileSync(path, 'utf8'), () => secrets);
  const [problem] = read.ok ? read.value.problems : read.problems;
  if (!read.ok || problem)
    throw new Error(`${path}: ${problem?.path ?? ''} ${problem?.message ?? ''}`.trim());
  const { records } = read.value;
  return (kind) =>
    records.flatMap((record) => (record.kind === kind ? [record.value as RecordOf[typeof kind]] : []));
};

const words = ({ file, articles, left, error, written }: FilePlaced): string => {
  if (error !== undefined) return `${file}: ${error}`;
  const lines = articles.flatMap(({ title, finds }) =>
    finds.map(
      ({ kind, line, link, was, changes }) =>
        `  ${articles.length > 1 ? `${title}, ` : ''}line ${line}  ${kind}${link === '' ? '' : ` → ${link}`}${changes ? '' : ' (by hand)'}  ${was}`,
    ),
  );
  const kept = left.map((each) => `  ${each}`);
  const title = `${file}: ${lines.length === 0 ? 'nothing to do' : `${lines.length} found${written ? ', written' : ''}`}`;
  return [title, ...lines, ...kept].join('\n');
};

const main = async (): Promise<number> => {
  const { values, positionals } = parseArgs({
    options: {
      write: { type: 'boolean', default: false },
      json: { type: 'boolean', default: false },
      source: { type: 'string' },
      data: { type: 'string' },
      catalogue: { type: 'string' },
    },
    allowPositionals: true,
    strict: true,
  });
  if (positionals.length === 0) throw new Error(`Give the files, or a folder. ${usage}`);
  if (values.source !== undefined && !/^(?:[A-Za-z0-9][A-Za-z0-9_-]{0,63})?$/.test(values.source))
    throw new Error('--source takes letters and digits, with - and _ between them.');
  const { dataDir, port } = readConfig({
    ...process.env,
    ...(values.data === undefined ? {} : { DATA_DIR: values.data }),
  });
  const stored = values.catalogue === undefined ? catalogueOf(dataDir) : undefined;
  const all: <K extends RecordKind>(kind: K) => RecordOf[K][] =
    stored === undefined ? fromFile(values.catalogue ?? '') : (kind) => stored.all(kind);
  const dead = new Map<string, string>();
  if (stored)
    for (const [link, { alive, because }] of answersFrom(await openDataset(dataDir)).traces())
      if (!alive) dead.set(link, because);
  const placed = placeFiles(
    positionals,
    {
      domains: all('domain'),
      networks: all('network'),
      programs: all('program'),
      accounts: all('account'),
      links: all('link'),
      products: all('product'),
      port: String(port),
      dead,
      now: Date.now(),
    },
    all('settings')[0]?.articles,
    { write: values.write, source: values.source },
  );
  process.stdout.write(
    values.json ? `${JSON.stringify(placed, undefined, 2)}\n` : `${placed.map(words).join('\n')}\n`,
  );
  if (placed.some(({ error }) => error !== undefined)) return 2;
  const isLeft = placed.some(({ articles, written }) =>
    articles.some(({ finds }) => finds.some(({ changes }) => !(written && changes))),
  );
  return isLeft ? 1 : 0;
};

endWith(main(), usage);
