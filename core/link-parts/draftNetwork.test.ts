import { describe, expect, it } from 'vitest';
import { draftNetwork, nameOfHost, shopNameIn } from './index.ts';

const link = (offer: string, shop: string, sub = '') =>
  `https://go.farrow.example/c/nl-9/${offer}?sub1=${sub}&u=https%3A%2F%2F${shop}%2Fitem&end=`;

describe('a network drafted from its links', () => {
  it('has its account, a program for each code with the shop of its page, and its slots', () =>
    expect(
      draftNetwork(
        [
          link('881', 'www.lantern-vale.example'),
          link('902', 'mosswick.example'),
          link('881', 'm.lantern-vale.example'),
        ],
        new Map(),
      ),
    ).toMatchObject({
      name: 'Farrow',
      accounts: ['nl-9'],
      programs: [
        { code: '881', hosts: ['lantern-vale.example'], name: 'Lantern vale' },
        { code: '902', hosts: ['mosswick.example'], name: 'Mosswick' },
      ],
      slots: [{ name: 'sub1', fill: '{click}' }],
      linkFormat: { hosts: ['go.farrow.example'], path: '/c/*/*' },
    }));

  it('has a program for each shop where its links have no code', () =>
    expect(
      draftNetwork(
        [
          'https://t.farrow.example/?by=nl-9&u=https%3A%2F%2Fa.example',
          'https://t.farrow.example/?by=nl-9&u=https%3A%2F%2Fb.example%2Fx',
        ],
        new Map([['by', 'account']]),
      ).programs,
    ).toEqual([
      { code: '', hosts: ['a.example'], name: 'A', origin: 'https://a.example' },
      { code: '', hosts: ['b.example'], name: 'B', origin: 'https://b.example' },
    ]));

  it('takes what a person says over what it reads', () =>
    expect(
      draftNetwork(
        [link('881', 'a.example')],
        new Map([
          ['/3', 'program'],
          ['/2', 'account'],
        ]),
      ),
    ).toMatchObject({
      accounts: ['nl-9'],
      programs: [{ code: '881' }],
    }));
});

describe('the name of a shop', () => {
  it.each([
    ['Lanternvale', 'lanternvale.example', 'Lanternvale'],
    ['Red clip lamp | Lantern Vale', 'www.lanternvale.example', 'Lantern Vale'],
    ['Lantern Vale – lamps that do not blind', 'shop.lantern-vale.example', 'Lantern Vale'],
    ['Bright Moon Goods: lamps', 'bmg.example', 'Bright Moon Goods'],
    ['Welcome', 'lanternvale.example', ''],
    ['', 'lanternvale.example', ''],
  ])('in “%s” of %s is “%s”', (title, host, name) => expect(shopNameIn(title, host)).toBe(name));

  it('is the host’s own word where nobody says another', () =>
    expect(nameOfHost('m.lantern-vale.co.uk')).toBe('Lantern vale'));
});
