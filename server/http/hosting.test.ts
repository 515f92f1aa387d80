import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { Chance } from '../testing/chance.ts';
import { freshFolder } from '../testing/process.ts';
import { openHosting, readHostingList } from './hosting.ts';

const listed = (text: string) => {
  const path = join(freshFolder(), 'hosting.txt');
  writeFileSync(path, text);
  return openHosting(path);
};
/** The ranges as they are published: in words of addresses, where the table is made from those in numbers. */
const published = (name: string): [from: string, until: string, number: number][] =>
  readFileSync(
    join(dirname(createRequire(import.meta.url).resolve('@ip-location-db/asn/package.json')), name),
    'utf8',
  )
    .split('\n')
    .flatMap((line) => {
      const [, from, until, number] = /^([^,]+),([^,]+),(\d+),/.exec(line) ?? [];
      return from === undefined || until === undefined ? [] : [[from, until, Number(number)]];
    });

describe('hosting networks', () => {
  it.each([
    ['asn-ipv4.csv', 4000],
    ['asn-ipv6.csv', 4000],
  ])('are told by the system that announces an address, at both ends of ranges of %s', (file, count) => {
    const ranges = published(file);
    expect(ranges.length).toBeGreaterThan(100_000);
    const chance = new Chance(file.length);
    const drawn = Array.from({ length: count }, () => chance.one(ranges));
    // Systems of even numbers are said to be such networks, the others to be none: so it shows which one was found.
    const isHosting = listed(
      drawn.map(([, , number]) => `${number % 2 === 0 ? '' : '!'}AS${number} # as published`).join('\n'),
    );
    for (const [from, until, number] of drawn)
      for (const address of [from, until])
        expect([address, number, isHosting(address)]).toEqual([address, number, number % 2 === 0]);
  });

  it('are not guessed where nobody announces an address, or it is none', () => {
    const isHosting = openHosting(undefined);
    for (const address of [
      '127.0.0.1',
      '::1',
      '10.0.0.1',
      '0.0.0.0',
      '240.0.0.1',
      '',
      'unknown',
      'fe80::1%eth0',
    ])
      expect([address, isHosting(address)]).toEqual([address, undefined]);
  });

  it('are known the same by an address in the form of IPv6', () => {
    const [from = ''] = published('asn-ipv4.csv')[1000] ?? [];
    const isHosting = openHosting(undefined);
    expect(isHosting(`::ffff:${from}`)).toBe(isHosting(from));
    expect(isHosting(from)).toBeDefined();
  });

  it('are what a person says, blocks before systems and the last line first', () => {
    const isHosting = listed('\n# ours\n203.0.113.0/24\n!203.0.113.64/26\n2001:db8::/32 # documents\r\n');
    expect(
      ['203.0.113.1', '203.0.113.70', '203.0.113.128', '2001:db8::7', '198.51.100.1'].map(isHosting),
    ).toEqual([true, false, true, true, undefined]);
    expect(openHosting('none')('203.0.113.1')).toBeUndefined();
  });

  it('are refused with the line that cannot be read', () => {
    for (const bad of ['AS', 'AS64500 and more', '203.0.113.0', '203.0.113.0/33', 'a network', '!'])
      expect(() => readHostingList(`AS64500\n${bad}\n`)).toThrow(/^Line 2 of the list of hosting networks/);
    expect(() => openHosting(join(freshFolder(), 'missing.txt'))).toThrow(
      /HOSTING_NETWORKS names cannot be read \(ENOENT/,
    );
  });
});
