import { describe, expect, it } from 'vitest';
import { knownNetworks, networkRecord } from '#core/link-parts';
import { hopRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';
import { domain } from './testing/worlds.ts';

const recordOf = (name: string, id: string) => {
  const known = knownNetworks.find((network) => network.name === name);
  if (!known) throw new Error(`${name} ships.`);
  return networkRecord(known, id, { key: 'k'.repeat(24), pixelKey: 'p'.repeat(24) });
};
const at = Date.UTC(2026, 9, 24, 12);
const tracking = 'https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1={click}&ref2={source}';
const link = (id: string, destination: string, more: object = {}) => ({
  id,
  domain: domain.id,
  slug: id.slice(4),
  destination,
  network: 'net_harrowmead',
  program: 'prg_1',
  ...more,
});
const data = new Dataset();
data.setRecords({
  domains: [domain],
  networks: [recordOf('Harrowmead', 'net_harrowmead')],
  // The shop's own form of address is not known, but the tag in it is registered.
  accounts: [
    { id: 'acc_1', network: 'net_harrowmead', tag: 'nina', owner: 'Nina' },
    { id: 'acc_2', network: 'net_harrowmead', tag: 'ines', owner: 'Ines' },
  ],
  links: [
    link('lnk_page', `${tracking}&page=https%3A%2F%2Fpolehouse.example%2Fkits%2Fsaturn%3Fcolour%3Dred`, {
      branches: [
        {
          id: 'b1',
          name: '',
          when: {},
          weight: 1,
          destination: tracking.replace('{source}', 'winter').replace('nl-4471', 'nl-9'),
        },
      ],
    }),
    link('lnk_none', `${tracking}&page=`),
    link('lnk_shop', 'https://vennordirect.example/atlas?friend=ines&note={source}'),
  ],
});
data.add([
  hopRecord({ seq: 1, at, link: 'lnk_page', source: 'flyer' }),
  hopRecord({ seq: 2, at: at + 1, link: 'lnk_page', branch: 'b1', source: 'flyer', visitor: '2'.repeat(16) }),
  hopRecord({ seq: 3, at: at + 2, link: 'lnk_none', source: 'newsletter', visitor: '3'.repeat(16) }),
  hopRecord({ seq: 4, at: at + 3, link: 'lnk_shop', visitor: '4'.repeat(16) }),
  // A branch that is no longer there, and a link.
  hopRecord({ seq: 5, at: at + 4, link: 'lnk_page', branch: 'b7', visitor: '5'.repeat(16) }),
  hopRecord({ seq: 6, at: at + 5, link: 'lnk_gone', visitor: '6'.repeat(16) }),
  // From an uncloaked link on a page, and by an access log: both went to the link's own address.
  hopRecord({ seq: 7, at: at + 6, link: 'lnk_shop', branch: 'page', visitor: '7'.repeat(16) }),
  hopRecord({ seq: 8, at: at + 7, link: 'lnk_shop', branch: 'log', visitor: '8'.repeat(16) }),
]);
const by = (name: Parameters<ReturnType<typeof answersFrom>['traffic']>[0]['by']) =>
  Object.fromEntries(
    answersFrom(data)
      .traffic({ by: name, from: '2026-10-24', to: '2026-10-24', where: [] })
      .lines.map(({ value, visitors }) => [value, visitors]),
  );

describe('where the branch of a link leads', () => {
  it('is the page inside a tracking link, else its own address, without what stands after ?', () => {
    expect(by('destination')).toEqual({
      'https://polehouse.example/kits/saturn': 1,
      'https://t.harrowmead.example/r': 2,
      'https://vennordirect.example/atlas': 3,
      '': 2,
    });
  });

  it('has a writer’s tag, and what the slots of its network hold: the source in its place', () => {
    expect(by('writer')).toEqual({ 'nl-4471': 2, 'nl-9': 1, ines: 3, '': 2 });
    expect(by('slot1')).toEqual({ '{click}': 3, '': 5 });
    expect(by('slot2')).toEqual({ flyer: 1, winter: 1, newsletter: 1, '': 5 });
    expect(by('slot5')).toEqual({ '': 8 });
  });
});
