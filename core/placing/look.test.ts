import { describe, expect, it } from 'vitest';
import type { Restriction } from '#core/catalogue';
import {
  anchorFault,
  anchorOf,
  contrast,
  disclosureOf,
  disclosurePlaces,
  lookProblems,
  usualLook,
} from './index.ts';

describe('contrast', () => {
  // WCAG 2.2: black on white is 21 : 1, a colour on itself 1 : 1.
  it('is 21 for black on white and 1 for a colour on itself', () => {
    expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 10);
    expect(contrast('#2c6a4c', '#2c6a4c')).toBe(1);
  });
  // The lightest grey that is read on white is #767676, 4.54 : 1; #777777 is 4.48 : 1 (WebAIM and others, from memory).
  it('tells the lightest grey that is read on white', () => {
    expect(contrast('#767676', '#ffffff')).toBeCloseTo(4.54, 2);
    expect(contrast('#ffffff', '#777777')).toBeCloseTo(4.48, 2);
  });
  it('is said where words cannot be read, and never rounded up to what is enough', () => {
    expect(lookProblems(usualLook)).toEqual([]);
    expect(lookProblems({ link: '#2c6a4c', ground: '#777777', ink: '#ffffff' })).toEqual([
      'The button has a contrast of 4.4 : 1. It is read from 4.5 on.',
    ]);
  });
});

describe('the linked text', () => {
  const name: Restriction = {
    what: 'name',
    because: 'Vennor Direct wants “Vennor” to be read in the linked text.',
  };
  it('is asked for where there is none', () => expect(anchorFault('  ', '', [])?.refused).toBe(true));
  it('has the name a merchant asks for, in whatever case', () => {
    expect(anchorFault('Moon globe', 'Vennor', [name])).toEqual({ refused: true, says: name.because });
    expect(anchorFault('VENNOR moon globe', 'Vennor', [name])).toBeUndefined();
  });
  it('is its own, else its title, and has the name a merchant asks for by itself', () => {
    expect(anchorOf({ title: 'Moon globe' }, '')).toBe('Moon globe');
    expect(anchorOf({ title: 'Moon globe', anchor: 'our globe' }, '')).toBe('our globe');
    expect(anchorOf({ title: 'Moon globe' }, 'Vennor')).toBe('Moon globe, Vennor');
    expect(anchorOf({ title: 'The VENNOR globe' }, 'Vennor')).toBe('The VENNOR globe');
  });
  it('that is too long for a sentence is said, and copied all the same', () => {
    expect(anchorFault('x'.repeat(60), '', [])).toBeUndefined();
    expect(anchorFault('🔭'.repeat(61), '', [])).toMatchObject({ refused: false });
  });
});

describe('a disclosure', () => {
  it('is longer where a longer one is asked for, and ends with what a merchant asks', () => {
    for (const place of disclosurePlaces) {
      const [short, usual, long] = (['short', 'usual', 'long'] as const).map(
        (length) => disclosureOf(place, length).length,
      );
      expect(short).toBeLessThan(usual ?? 0);
      expect(usual).toBeLessThan(long ?? 0);
    }
    expect(disclosureOf('post', 'short', 'As a partner of Vennor.')).toBe(
      '(Paid link) As a partner of Vennor.',
    );
  });
});
