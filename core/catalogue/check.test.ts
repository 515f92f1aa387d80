import { domainToASCII } from 'node:url';
import { describe, expect, it } from 'vitest';
import type { Link } from './index.ts';
import {
  addressOf,
  allowedHop,
  checkRecord,
  restrictionsOf,
  hopOf,
  newDomain,
  pathsOf,
  upgradeRecord,
  withAddress,
  withPrefix,
} from './index.ts';

const link: Link = {
  id: 'lnk_saturn',
  domain: 'dom_see',
  slug: 'saturn-kit',
  aliases: [],
  title: 'Saturn eyepiece kit',
  destination: 'https://t.harrowmead.example/r?by=nl-4471&ref1={click}',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
};
const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const branch = (id: string, when = {}) => ({
  id,
  name: '',
  when,
  destination: 'https://a.example/',
  weight: 1,
});
const wait = { seconds: 5, text: '', button: '', progress: true };

describe('a record', () => {
  it('passes when whole, with its slug in lower case', () => {
    const checked = checkRecord('link', { ...link, slug: 'Saturn-Kit' });
    expect(checked.ok && checked.value.slug).toBe('saturn-kit');
  });

  it.each([
    ['slug', { slug: 'saturn kit' }, 'A slug cannot hold spaces'],
    ['destination', { destination: 'javascript:alert(1)' }, 'begins with http'],
    ['title', { title: '  ' }, 'cannot be empty'],
    ['hop.status', { hop: { status: 303 } }, '301, 302, 307 or 308'],
    ['cloak', { cloak: true }, 'cloak'],
    ['hours.from', { hours: { from: '2026-02-31T10:00' } }, 'no such day'],
    ['branches.1', { branches: [branch('b1'), branch('b1')] }, 'the same ID'],
    ['branches.0.id', { branches: [branch('before')] }, 'no ID of a branch'],
    [
      'branches.0.when.days.from',
      { branches: [branch('b1', { days: { from: '2027-02-29' } })] },
      'no such day',
    ],
    ['picture', { picture: 'https://a.example/\0.png' }, 'NUL'],
    ['picture', { picture: 'https://a:99999/p.png' }, 'http or https address'],
    ['hop.scripts.0', { hop: { scripts: ['https://a:99999/x'] } }, 'that a browser can open'],
    [
      'hop.wait.picture',
      { hop: { wait: { ...wait, picture: 'https://a:99999/x' } } },
      'http or https address',
    ],
  ])('names the field at fault: %s', (path, wrong, message) => {
    const checked = checkRecord('link', { ...link, ...wrong });
    expect(checked.ok).toBe(false);
    if (!checked.ok) {
      expect(checked.problems[0]?.path).toBe(path);
      expect(checked.problems[0]?.message).toContain(message);
    }
  });

  it.each([
    'localhost',
    'see nightledge.example',
    'https://see.nightledge.example',
    '-a.example',
    '10.0.0.1',
  ])('refuses %s as a domain', (host) => expect(checkRecord('domain', { ...domain, host }).ok).toBe(false));

  // Node's own conversion (UTS #46) is the reference; every other byte stays.
  it.each([
    ['https://münchen.example/ä?x=', 'https://xn--mnchen-3ya.example/ä?x='],
    ['https://日本.example:8443/p#é', `https://${domainToASCII('日本.example')}:8443/p#é`],
    ['HTTPS://Shop.Example/A', 'HTTPS://Shop.Example/A'],
  ])('keeps the host of %s as it travels', (destination, kept) => {
    const checked = checkRecord('link', { ...link, destination });
    expect(checked.ok && checked.value.destination).toBe(kept);
  });

  it('of a program applies at a web address alone', () => {
    const program = { id: 'prg_a', network: 'net_a', name: 'A', code: '', hosts: [], state: 'joined' };
    const apply = (address: string) => checkRecord('program', { ...program, apply: address }).ok;
    expect(['', 'https://a.example/apply', 'javascript:alert(1)', 'data:text/html,x'].map(apply)).toEqual([
      true,
      true,
      false,
      false,
    ]);
  });

  it('cannot smuggle a prototype in', () => {
    const smuggled: unknown = JSON.parse(JSON.stringify(link).replace('"id"', '"__proto__":{"x":1},"id"'));
    const checked = checkRecord('link', smuggled);
    expect(Object.prototype).not.toHaveProperty('x');
    expect(checked.ok && 'x' in checked.value).toBe(false);
  });
});

describe('a record of an earlier version', () => {
  it('gains what it lacks', () => {
    const { earlierPrefixes: _1, groups: _2, cookieDays: _3, mail: _4, social: _5, ...rest } = domain;
    const { status, cache, hideReferrer, pass } = domain.hop;
    const old = { ...rest, hop: { status, cache, hideReferrer, pass } };
    expect(upgradeRecord('domain', old)).toEqual(domain);
    const strange = { ...old, host: 7 };
    expect(upgradeRecord('domain', strange)).toBe(strange);
  });
});

describe('a link and its domain', () => {
  it('follows the defaults of its domain until told otherwise', () => {
    expect(hopOf(link, domain).status).toBe(307);
    expect(
      hopOf({ ...link, hop: { status: 301 } }, { ...domain, hop: { ...domain.hop, hideReferrer: true } }),
    ).toEqual({ ...domain.hop, status: 301, hideReferrer: true });
  });

  it('goes on answering at every slug it had', () => {
    const renamed = withAddress(withAddress(link, 'Saturn'), 'rings');
    expect(pathsOf(renamed, { ...domain, prefix: 'go/' })).toEqual([
      'go/rings',
      'go/saturn',
      'go/saturn-kit',
    ]);
    expect(withAddress(renamed, 'saturn').aliases).toEqual(['rings', 'saturn-kit']);
    expect(addressOf(domain, renamed)).toBe('see.nightledge.example/rings');
  });

  it('goes on answering when it is put into a group and out of it again, and when the prefix changes', () => {
    const grouped = withAddress(link, 'saturn-kit', 'kits');
    const shown = { ...domain, groups: true };
    expect(addressOf(shown, grouped)).toBe('see.nightledge.example/kits/saturn-kit');
    expect(pathsOf(grouped, shown)).toEqual(['kits/saturn-kit', 'saturn-kit']);
    const out = withAddress(grouped, 'rings', '');
    expect(out).not.toHaveProperty('group');
    const moved = withPrefix(withPrefix(shown, 'go/'), 'see/');
    expect(pathsOf(out, moved)).toEqual(
      ['see/', 'go/', ''].flatMap((prefix) =>
        ['rings', 'saturn-kit', 'kits/saturn-kit'].map((p) => prefix + p),
      ),
    );
    expect(withPrefix(moved, 'go/').earlierPrefixes).toEqual(['see/', '']);
  });

  it('holds links to what a merchant and a domain allow', () => {
    const rules = { cloak: false, name: 'Vennor', ownLinks: false, mail: false, social: true };
    const restrictions = restrictionsOf({ name: 'Vennor Direct', rules }, { ...domain, social: false });
    expect(restrictions.map((h) => h.what)).toEqual(['short', 'frame', 'page', 'name', 'mail', 'social']);
    expect(
      allowedHop({ ...domain.hop, page: 'frame', scripts: ['https://count.example/x.js'] }, restrictions),
    ).toMatchObject({
      page: 'none',
      scripts: [],
    });
    expect(restrictionsOf(undefined, domain)).toEqual([]);
  });
});
