import { describe, expect, it } from 'vitest';
import type { ClickIndex } from './index.ts';
import { matchClick } from './index.ts';

const clicks: readonly (readonly [id: string, network: string])[] = [
  ['01M84BDPSKXE4HN0RD2V6W3PBC', 'net_h'],
  ['01M84BDPSKXE4HN0RD2V6W3PZZ', 'net_k'],
  ['01M84BDPSKXE4HN0RDAAAAAAAA', 'net_h'],
  ['01M84BDPSKXE4HN0RDBBBBBBBB', 'net_h'],
];
const index: ClickIndex = {
  beginningWith: (text) => {
    const rows = clicks.flatMap(([id], row) => (id.startsWith(text.toUpperCase()) ? [row] : []));
    return { count: rows.length, row: (n) => rows[n] ?? -1 };
  },
  click: (row) => clicks[row]?.[0] ?? '',
  networkOf: (row) => clicks[row]?.[1] ?? '',
  isOf: (row, network) => clicks[row]?.[1] === network,
  covers: () => true,
  isRolledUp: () => false,
};
const match = (click: string, network = 'net_h', of = index) => matchClick(click, network, of);

describe('matching a conversion to its click', () => {
  it.each([
    ['01M84BDPSKXE4HN0RD2V6W3PBC', 'exact', 0],
    ['01m84bdpskxe4hn0rd2v6w3pbc', 'folded', 0],
    [' 01M84BDPSKXE4HN0RD2V6W3PBC ', 'folded', 0],
    ['01M84BDPSKXE4HN0RD2V', 'prefix', 0],
    ['01m84bdpskxe4hn0rd2v', 'prefix', 0],
    ['01M84BDPSKXE4HN0RDA', 'prefix', 2],
  ])('"%s" is %s', (click, level, row) => expect(match(click)).toMatchObject({ level, row }));

  it('looks among the clicks of that network only', () => {
    expect(match('01M84BDPSKXE4HN0RD2V6W3P', 'net_k')).toMatchObject({ level: 'prefix', row: 1 });
    expect(match('01M84BDPSKXE4HN0RD2V6W3P', 'net_x')).toMatchObject({ level: 'missing', row: -1 });
  });

  it.each([
    ['', 'unfilled', 'without a click ID'],
    ['[[ref1]]', 'unfilled', 'did not replace it'],
    ['{k1}', 'unfilled', 'did not replace it'],
    ['%tag%', 'unfilled', 'did not replace it'],
    ['01M84BDPSKXE4HN0RD', 'missing', '3 clicks begin with these 18 characters'],
    ['01M84BDPSKX', 'too short', 'Only 11 characters of the ID came'],
    ['01M', 'too short', 'Only 3 characters'],
    ['hello-u', 'not ours', 'not have the form'],
    ['01M84BDPSKXE4HN0RD2V6W3PZZ', 'another network', 'another network'],
    ['01m84bdpskxe4hn0rd2v6w3pzz', 'another network', 'another network'],
    ['01M84BDPSKXE4HN0RD2V6W3PZ', 'another network', 'The only click that begins so'],
    ['01M84BDPSKXE4HN0RD2V6W3PBD', 'missing', 'no such click'],
    ['pub-5150-a81c02d', 'not ours', 'not have the form'],
    ['01M84BDPSKXE4HN0RD2V6W3PBC0', 'not ours', 'not have the form'],
  ])('"%s" is %s, and says why', (click, level, because) => {
    const found = match(click);
    expect(found.level).toBe(level);
    expect(found.row).toBe(-1);
    expect(found.because).toContain(because);
  });

  it('is not ours where our records do not reach', () =>
    expect(match('01M84BDPSKXE4HN0RD2V6W3PBD', 'net_h', { ...index, covers: () => false }).level).toBe(
      'not ours',
    ));
});
