import { describe, expect, it } from 'vitest';
import type { Link } from './index.ts';
import { addressOf, checkRecord, hopOf, newDomain, pathsOf, withSlug } from './index.ts';

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

  it('cannot smuggle a prototype in', () => {
    const smuggled: unknown = JSON.parse(JSON.stringify(link).replace('"id"', '"__proto__":{"x":1},"id"'));
    const checked = checkRecord('link', smuggled);
    expect(Object.prototype).not.toHaveProperty('x');
    expect(checked.ok && 'x' in checked.value).toBe(false);
  });
});

describe('a link and its domain', () => {
  it('follows the defaults of its domain until told otherwise', () => {
    expect(hopOf(link, domain).status).toBe(307);
    expect(
      hopOf({ ...link, hop: { status: 301 } }, { ...domain, hop: { ...domain.hop, hideReferrer: true } }),
    ).toEqual({
      status: 301,
      cache: false,
      hideReferrer: true,
      pass: 'none',
    });
  });

  it('goes on answering at every slug it had', () => {
    const renamed = withSlug(withSlug(link, 'Saturn'), 'rings');
    expect(pathsOf(renamed, { ...domain, prefix: 'go/' })).toEqual([
      'go/rings',
      'go/saturn',
      'go/saturn-kit',
    ]);
    expect(withSlug(renamed, 'saturn').aliases).toEqual(['rings', 'saturn-kit']);
    expect(addressOf(domain, 'rings')).toBe('see.nightledge.example/rings');
  });
});
