import { describe, expect, it } from 'vitest';
import type { Program } from '#core/catalogue';
import { ownership, withOwners } from './index.ts';
import { linkRecord, networkOf, programRecord } from './testing/records.ts';

const harrowmead = networkOf('Harrowmead');
const programs = [
  programRecord(),
  programRecord({ id: 'prg_cinder', name: 'Cindermitt', code: '2111', hosts: ['cindermitt.example'] }),
];
const to = (deal: string, page: string) =>
  `https://t.harrowmead.example/r?by=nl-4471&deal=${deal}&page=${encodeURIComponent(page)}`;
const owners = (link: Parameters<typeof linkRecord>[0], networks = [harrowmead]) => {
  const { network, program } = withOwners(linkRecord(link), networks, programs);
  return [network, program];
};

describe('to whom a link belongs', () => {
  it('follows its destination, whatever it belonged to before', () => {
    expect(owners({ destination: to('2093', 'https://polehouse.example/a') })).toEqual([
      'net_a',
      'prg_polehouse',
    ]);
    expect(
      owners({
        destination: to('2111', 'https://cindermitt.example/a'),
        network: 'net_a',
        program: 'prg_polehouse',
      }),
    ).toEqual(['net_a', 'prg_cinder']);
    expect(
      owners({ destination: 'https://other.example/', network: 'net_a', program: 'prg_polehouse' }),
    ).toEqual([undefined, undefined]);
  });

  it('is no program where its code is none of theirs, and that of the page’s shop where it has no code', () => {
    expect(owners({ destination: to('9', 'https://polehouse.example/a'), program: 'prg_polehouse' })).toEqual(
      ['net_a', undefined],
    );
    expect(owners({ destination: to('', 'https://cindermitt.example/a') })).toEqual(['net_a', 'prg_cinder']);
  });

  it('stays where an older version of the link format fits, or the network’s links are not known yet', () => {
    const now = { ...harrowmead.linkFormat, version: 2, path: '/new' };
    const changed = { ...harrowmead, linkFormat: now, earlierLinkFormats: [harrowmead.linkFormat] };
    const link = {
      destination: to('2093', 'https://polehouse.example/a'),
      network: 'net_a',
      program: 'prg_polehouse',
    };
    expect(owners(link, [changed])).toEqual(['net_a', 'prg_polehouse']);
    const unknown = { ...harrowmead, linkFormat: { ...now, hosts: [] } };
    expect(owners(link, [unknown])).toEqual(['net_a', 'prg_polehouse']);
  });

  it('is known by the host of a merchant’s own short links, which no link format of its network fits', () => {
    const short = { cloak: true, name: '', ownLinks: true, mail: false, social: true };
    const withHosts = (id: string) =>
      programRecord({ id, code: id, rules: { ...short, shortHosts: ['pole.example'] } });
    const its = (programs: Program[], program?: string) => {
      const link = linkRecord({
        destination: 'https://pole.example/x7',
        ...(program !== undefined && { network: 'net_a', program }),
      });
      const found = withOwners(link, [harrowmead], programs);
      return [found.network, found.program];
    };
    expect(its([withHosts('prg_polehouse')])).toEqual(['net_a', 'prg_polehouse']);
    expect(its([programRecord()])).toEqual([undefined, undefined]);
    // Two programs of one merchant: the one it was stays, and nobody guesses.
    const two = [withHosts('prg_one'), withHosts('prg_two')];
    expect(its(two, 'prg_two')).toEqual(['net_a', 'prg_two']);
    expect(its(two)).toEqual([undefined, undefined]);
    expect(ownership(programRecord())).not.toBe(ownership(withHosts('prg_polehouse')));
  });

  it('gives back the very link where nothing changes', () => {
    const link = linkRecord({
      destination: to('2093', 'https://polehouse.example/a'),
      network: 'net_a',
      program: 'prg_polehouse',
    });
    expect(withOwners(link, [harrowmead], programs)).toBe(link);
  });

  it('is told anew only where what decides it changed', () => {
    expect(ownership({ ...harrowmead, name: 'Other' })).toBe(ownership(harrowmead));
    expect(ownership(programRecord({ code: '7' }))).not.toBe(ownership(programRecord()));
  });
});
