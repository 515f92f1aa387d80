import { existsSync } from 'node:fs';
import type { Compared } from './compare.ts';
import { compare, instances, seconds, turns } from './compare.ts';
import { measureFirstScreen } from './firstScreen.ts';
import { quantile } from './fixedRate.ts';
import { bare, bytesPerLink, inExpress, nginx, ours } from './targets.ts';
import { disturbed } from './undisturbed.ts';

const sorted = (list: readonly number[]) => [...list].sort((a, b) => a - b);
const median = (list: readonly number[]): number => quantile(sorted(list), 0.5);
const spread = (list: readonly number[]): string => {
  const s = sorted(list);
  return `${(s[0] ?? NaN).toFixed(2)} to ${(s.at(-1) ?? NaN).toFixed(2)}`;
};

type Row = readonly [
  what: string,
  values: readonly number[],
  wanted: string,
  good: (value: number) => boolean,
];

const table = (rows: readonly Row[]): string =>
  [
    '| what | median | spread | wanted | met |',
    '|---|---:|---|---|---|',
    ...rows.map(([what, values, wanted, good]) => {
      const value = median(values);
      return `| ${what} | ${value.toFixed(2)} | ${spread(values)} | ${wanted} | ${good(value) ? 'yes' : 'no'} |`;
    }),
  ].join('\n');

/** Says what a pair came to at once: a whole run takes minutes and may be cut off. */
const tellPair = (name: string, { cpu, rate, p99, clean }: Compared): void => {
  const tail = p99.length > 0 ? `, p99 ${median(p99).toFixed(2)}` : '';
  process.stderr.write(
    `${name}: processor time ${median(cpu).toFixed(2)}, rate ${median(rate).toFixed(2)}${tail}; ${clean} of ${cpu.length} pairs undisturbed\n`,
  );
};

const compareAll = async (): Promise<Row[]> => {
  const few = () => ours('our hop, 100 links', 100);
  const many = () => ours('our hop, 100,000 links', 100_000);
  const toBare = await compare(few, bare, true);
  tellPair('bare', toBare);
  const toExpress = await compare(few, inExpress);
  tellPair('in Express', toExpress);
  const toFew = await compare(many, few);
  tellPair('100,000 links to 100', toFew);
  const memory: number[] = [];
  while (memory.length < instances) memory.push(await bytesPerLink(100_000));
  const rows: Row[] = [
    ['processor time a request, ours ÷ bare', toBare.cpu, 'at most 1.7', (v) => v <= 1.7],
    ['requests a second, ours ÷ bare', toBare.rate, 'at least 0.6', (v) => v >= 0.6],
    ['p99 at half of its capacity, ours ÷ bare', toBare.p99, 'at most 3', (v) => v <= 3],
    ['requests a second, ours ÷ ours in Express', toExpress.rate, 'at least 3.5', (v) => v >= 3.5],
    ['requests a second, 100,000 links ÷ 100 links', toFew.rate, '0.90 to 1.10', (v) => v >= 0.9 && v <= 1.1],
    ['bytes of memory a link, at 100,000', memory, 'under 1024', (v) => v < 1024],
  ];
  if (nginx) {
    const toNginx = await compare(few, nginx);
    rows.push(['requests a second, ours ÷ nginx', toNginx.rate, 'reported', () => true]);
    rows.push(['processor time a request, ours ÷ nginx', toNginx.cpu, 'reported', () => true]);
  } else
    process.stdout.write(
      'nginx is not installed, so nothing is compared with it: apt-get install nginx-light\n',
    );
  return rows;
};

const main = async (): Promise<void> => {
  if (!existsSync('/usr/bin/wrk') || !existsSync('/usr/bin/curl')) {
    process.stdout.write('The client that asks is not installed: apt-get install wrk curl\n');
    process.exit(2);
  }
  process.stdout.write(`${table(await compareAll())}\n`);
  process.stdout.write(
    `\nThe limit of records by address is out of reach, for the client has one address.\n${instances * turns} interleaved runs of ${seconds} s each for each pair, ${instances} pairs of processes; ${disturbed()} measurements were made while the host was busy, however often they were tried.\n`,
  );

  const screens = await measureFirstScreen(9);
  process.stdout.write(
    `\n${table([
      [
        'first screen, kilobytes of compressed script',
        screens.map((s) => s.scriptKilobytes),
        'at most 230',
        (v) => v <= 230,
      ],
      [
        'first screen, seconds until usable, empty profile',
        screens.map((s) => s.usableMs / 1000),
        'at most 1',
        (v) => v <= 1,
      ],
    ])}\n`,
  );
};

await main();
process.exit(0);
