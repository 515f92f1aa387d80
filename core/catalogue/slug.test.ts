import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { alternatives, freeSlug, proposeSlug, slugLength, slugProblem } from './index.ts';

describe('proposing a slug', () => {
  it.each([
    ['Saturn eyepiece kit', 'saturn-eyepiece-kit'],
    ['The best of our eyepieces', 'best-eyepieces'],
    ['Crème brûlée für Ångström', 'creme-brulee-fur-angstrom'],
    ['Großer Bär & Łódź', 'grosser-bar-lodz'],
    ["Observer's chair", 'observers-chair'],
    ['土星 kit 8″', 'kit-8'],
    ['To the', 'to-the'],
    ['土星', ''],
  ])('%s becomes %s', (title, slug) => expect(proposeSlug(title)).toBe(slug));

  it('always proposes something that may be used, or nothing', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (title) => {
        const slug = proposeSlug(title);
        if (slug !== '' && !/^(api|beacon|pixel|postback)$/.test(slug))
          expect(slugProblem(slug)).toBeUndefined();
      }),
    ));
});

describe('a slug that cannot be used', () => {
  it.each(['', 'two words', '-a', 'a-', 'a/b', 'ä', 'a~b', 'API', 'robots.txt', 'x'.repeat(slugLength + 1)])(
    '"%s" is refused with a reason',
    (slug) => expect(slugProblem(slug)).toMatch(/\.$/),
  );
});

describe('a slug that is taken', () => {
  const taken = new Set(['gloves', 'gloves-2', 'gloves-4']);
  it('offers the nearest free ones', () =>
    expect(alternatives('Gloves', (slug) => taken.has(slug))).toEqual(['gloves-3', 'gloves-5', 'gloves-6']));
  it('keeps one that is free', () => expect(freeSlug('Chair', (slug) => taken.has(slug))).toBe('chair'));
  it('never offers one longer than a slug may be', () =>
    expect(slugProblem(freeSlug('x'.repeat(slugLength), () => false))).toBeUndefined());
});
