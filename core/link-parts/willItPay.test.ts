import { describe, expect, it } from 'vitest';
import type { Branch, Link } from '#core/catalogue';
import { willItPay } from './index.ts';
import { networkOf, programRecord } from './testing/records.ts';

const registers = {
  networks: [networkOf('Harrowmead')],
  programs: [programRecord()],
  accounts: [{ id: 'acc_nl', network: 'net_a', tag: 'nl-4471', owner: 'Ines' }],
};
const good = 'https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1={click}&ref2=&page=x';
const ask = (link: Pick<Link, 'destination' | 'branches'>, more: Partial<typeof registers> = {}) =>
  willItPay(link, { rel: ['sponsored'] }, { ...registers, ...more }, undefined, 0);
const about = (
  name: string,
  link: Pick<Link, 'destination' | 'branches'>,
  more: Partial<typeof registers> = {},
) => ask(link, more).find((check) => check.about === name);
const branch = (name: string, destination: string): Branch => ({
  id: name,
  name,
  when: {},
  destination,
  weight: 1,
});

describe('will it pay?', () => {
  it('is good where account, program and click ID are as they should be', () => {
    expect(ask({ destination: good }).map(({ about: what, state }) => [what, state])).toEqual([
      ['account', 'good'],
      ['click ID', 'good'],
      ['marks', 'good'],
      ['postback', 'unknown'],
    ]);
  });

  it('knows the program: none, one that is not known, one that has not accepted', () => {
    const without = { destination: good.replace('2093', '') };
    expect(about('program', without)?.because).toBe('The link names no program: no shop knows of it.');
    expect(about('program', { destination: good.replace('2093', '9') })?.state).toBe('unknown');
    expect(
      about('program', { destination: good }, { programs: [programRecord({ state: 'declined' })] })?.because,
    ).toContain('Polehouse Optics is declined');
  });

  it('offers nothing to be added to a merchant’s own short link, and says what nobody can read there', () => {
    const rules = {
      cloak: true,
      name: '',
      ownLinks: true,
      shortHosts: ['pole.example'],
      mail: true,
      social: true,
    };
    const own = { programs: [programRecord({ rules })] };
    const short = { destination: 'https://pole.example/x7?click=' };
    for (const name of ['account', 'click ID']) {
      const check = about(name, short, own);
      expect([check?.state, check?.mend]).toEqual(['unknown', undefined]);
      expect(check?.because).toContain('short link of Polehouse Optics’s own');
    }
    expect(about('click ID', short)?.state).toBe('bad');
  });

  it('looks at every branch of a split, and tells the worst', () => {
    const link = {
      destination: good,
      branches: [
        branch('phones', good),
        branch('Japan', good.replace('{click}', '').replace('nl-4471', 'zz-1')),
      ],
    };
    expect(about('click ID', link)).toMatchObject({
      state: 'bad',
      because: 'Branch Japan: No click ID goes along, so no sale can ever be matched to its click.',
    });
    expect(about('account', link)?.because).toContain('Branch Japan: zz-1 is not in the register');
  });

  it.each([
    [
      'https://go.farrow.example/x?sub1=&sub2=',
      'https://go.farrow.example/x?sub1={click}&sub2=',
      'Fill sub1',
    ],
    [
      'https://go.farrow.example/x?sub1=blog&sub2=',
      'https://go.farrow.example/x?sub1=blog&sub2={click}',
      'Fill sub2',
    ],
    [
      'https://go.farrow.example/x?a=1&clickid=&sid=',
      'https://go.farrow.example/x?a=1&clickid={click}&sid=',
      'Fill clickid',
    ],
    [
      'https://go.farrow.example/x#o=4&s2=&end=',
      'https://go.farrow.example/x#o=4&s2={click}&end=',
      'Fill s2 behind #',
    ],
  ])('offers the likeliest slot of a network nobody registered: %s', (destination, mended, words) =>
    expect(about('click ID', { destination })?.mend).toEqual({ destination: mended, words }),
  );

  it('says which word would be replaced where no slot is empty, and offers none where no name is usual', () => {
    expect(about('click ID', { destination: 'https://go.farrow.example/x?sub1=blog' })?.because).toContain(
      'which holds “blog” here: that would be replaced.',
    );
    const none = about('click ID', { destination: 'https://go.farrow.example/x?a=1&b=' });
    expect([none?.mend, none?.because]).toEqual([
      undefined,
      expect.stringContaining('ask the network which it is'),
    ]);
  });
});
