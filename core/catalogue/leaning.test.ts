import { describe, expect, it } from 'vitest';
import { leaningProblem, movedAddress, newDomain, prefixProblem, withPrefix } from './index.ts';

const link = (id: string, more: object = {}) => ({
  id,
  slug: id.slice(4),
  domain: 'dom_see',
  aliases: [],
  ...more,
});
const nobody = { links: [], programs: [], accounts: [] };

describe('a record that others lean on', () => {
  it.each([
    ['domain' as const, 'dom_see', { links: [link('lnk_kit')] }, 'Used by 1 link: kit.'],
    ['program' as const, 'prg_a', { links: [link('lnk_kit', { program: 'prg_a' })] }, 'held to its rules'],
    [
      'link' as const,
      'lnk_new',
      { links: [link('lnk_new'), link('lnk_old', { archived: { at: 1, to: 'lnk_new' } })] },
      'Used by 1 link: old.',
    ],
    [
      'network' as const,
      'net_a',
      {
        links: ['a', 'b', 'c', 'd', 'e'].map((name) => link(`lnk_${name}`, { network: 'net_a' })),
        programs: [{ name: 'Polehouse', network: 'net_a' }],
        accounts: [{ network: 'net_a' }, { network: 'net_b' }],
      },
      'Used by 5 links (a, b, c and 2 more), 1 program (Polehouse), 1 account tag.',
    ],
  ])('is not removed: a %s', (kind, record, leaning, words) => {
    expect(leaningProblem(kind, record, { ...nobody, ...leaning })).toContain(words);
    expect(leaningProblem(kind, record, nobody)).toBeUndefined();
  });
});

describe('the addresses of a domain', () => {
  const domain = newDomain('dom_see', 'see.nightledge.example', 'UTC');
  it('are not handed to another link by a prefix or by groups', () => {
    const kit = link('lnk_kit');
    const grouped = link('lnk_x', { slug: 'kit2', group: 'go' });
    const alias = link('lnk_y', { slug: 'y', aliases: ['go/kit'] });
    const owner = (path: string) => (path === 'go/kit' ? alias : undefined);
    expect(movedAddress([kit, grouped], withPrefix(domain, 'go/'), () => undefined)).toBeUndefined();
    expect(movedAddress([kit, alias], withPrefix(domain, 'go/'), owner)).toMatchObject({
      path: 'go/kit',
      from: { id: 'lnk_y' },
      to: { id: 'lnk_kit' },
    });
  });
  it.each(['postback/', 'pixel/', 'beacon/', 'api/', 'postback/x/'])('cannot begin with %s', (prefix) =>
    expect(prefixProblem(prefix)).toContain('Choose another prefix'),
  );
  it.each(['', 'go/', 'go/postback/'])('can begin with %j', (prefix) =>
    expect(prefixProblem(prefix)).toBeUndefined(),
  );
});
