// Makes the table of AS numbers that the server looks addresses up in: of each range of addresses the autonomous system that announces
// it, and which systems are hosting networks. From Route Views' data as @ip-location-db/asn publishes it (CC BY 4.0).
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { root } from './prepare.mjs';

/**
 * What hosting networks call themselves. That is a rule of ours: whoever calls itself otherwise is missed, and an access provider
 * with such a word in its name is taken for one.
 */
const hostingWords =
  /\b(?:web)?host(?:ing|ed|er|s)?\b|cloud|\bservers?\b|data ?-?cent(?:er|re)s?\b|\bvps\b|\bcolo(?:cation)?\b|\bdedicated\b|\bcdn\b/i;
/** Large ones whose names do not tell; from memory. */
const hostingNumbers = [
  ...[
    3842, 6939, 8068, 8075, 8100, 8560, 9009, 12876, 13335, 13649, 14061, 14618, 15169, 16276, 16509, 16625,
  ],
  ...[
    19318, 19551, 20454, 20473, 20940, 22612, 24940, 25820, 26347, 26496, 27357, 28753, 29066, 31898, 32244,
  ],
  ...[
    32613, 33070, 36351, 36352, 37963, 39351, 40244, 42708, 45090, 45102, 46606, 46844, 47583, 49367, 49981,
  ],
  ...[
    51167, 53667, 54113, 54290, 54825, 55286, 55293, 58061, 59253, 60068, 60781, 62240, 62567, 63949, 132203,
  ],
  ...[135377, 136907, 197540, 200019, 202053, 202425, 203020, 212238, 213230, 393406, 394695, 396982, 398101],
];

const folder = dirname(createRequire(import.meta.url).resolve('@ip-location-db/asn/package.json'));
/** The ranges of a file, those that lie side by side and belong to the same put together. */
const rangesOf = (name) => {
  const ranges = [];
  const names = new Map();
  for (const line of readFileSync(join(folder, name), 'utf8').split('\n')) {
    const [, from, until, number, owner] = /^(\d+),(\d+),(\d+),(.*)$/.exec(line) ?? [];
    if (from === undefined) continue;
    const range = { from: BigInt(from), until: BigInt(until), number: Number(number) };
    names.set(range.number, owner);
    const last = ranges.at(-1);
    if (last && range.from <= last.from) throw new Error(`${name}: ${line} begins before the line above it`);
    // Of two that overlap, the one that begins later says more.
    if (last && range.from <= last.until) last.until = range.from - 1n;
    if (last?.number === range.number && last.until + 1n === range.from) last.until = range.until;
    else ranges.push(range);
  }
  if (ranges.length === 0) throw new Error(`${name} has no ranges`);
  return { ranges, names };
};

const words = (value, count) =>
  Array.from({ length: count }, (_, i) => Number((value >> BigInt(32 * (count - 1 - i))) & 0xffffffffn));
const [four, six] = ['asn-ipv4-num.csv', 'asn-ipv6-num.csv'].map(rangesOf);
const hosting = new Set(hostingNumbers);
for (const { names } of [four, six])
  for (const [number, owner] of names) if (hostingWords.test(owner)) hosting.add(number);

/** The numbers of hosting networks; then of each kind of address how many ranges, where each begins, ends, and whose it is. */
const table = [
  [hosting.size],
  [...hosting].sort((a, b) => a - b),
  ...[
    [four, 1],
    [six, 4],
  ].flatMap(([{ ranges }, count]) => [
    [ranges.length],
    ranges.flatMap(({ from }) => words(from, count)),
    ranges.flatMap(({ until }) => words(until, count)),
    ranges.map(({ number }) => number),
  ]),
].flat();
writeFileSync(join(root, 'dist/server/asTable.bin'), Uint32Array.from(table));
console.log(
  `${four.ranges.length + six.ranges.length} ranges of AS numbers, ${hosting.size} of them hosting networks`,
);
