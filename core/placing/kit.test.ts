import { describe, expect, it } from 'vitest';
import type { PlacedLink } from './index.ts';
import { lettersOf, messageLength, postClip } from './index.ts';

const link: PlacedLink = {
  address: 'https://see.nightledge.example/saturn-kit~post',
  text: 'Saturn eyepiece kit',
  marks: { rel: ['sponsored'], newTab: true, title: '' },
  referrer: 'page',
};

describe('a text message', () => {
  // 3GPP TS 23.038: 160 septets or 70 UCS-2 letters; with the header that joins several, 153 or 67.
  it.each([
    ['a'.repeat(160), { units: 160, parts: 1, left: 0 }],
    ['a'.repeat(161), { units: 161, parts: 2, left: 145 }],
    ['a'.repeat(306), { units: 306, parts: 2, left: 0 }],
    ['a'.repeat(307), { units: 307, parts: 3, left: 152 }],
    [`${'a'.repeat(158)}€`, { units: 160, parts: 1, left: 0 }],
    [`${'a'.repeat(159)}€`, { units: 161, parts: 2, left: 145 }],
    ['ä~[]', { units: 7, parts: 1, left: 153 }],
    [`${'a'.repeat(69)}ś`, { units: 70, parts: 1, left: 0 }],
    [`${'a'.repeat(70)}ś`, { units: 71, parts: 2, left: 63 }],
    ['🔭'.repeat(35), { units: 70, parts: 1, left: 0 }],
    ['🔭'.repeat(36), { units: 72, parts: 2, left: 62 }],
  ])('is as long as its standard says: %s', (text, length) => expect(messageLength(text)).toEqual(length));
});

describe('a post', () => {
  it('has the link last, and reads the same in a rich editor', () => {
    const words = { text: 'Saturn < tonight\n& tomorrow ', action: ' Look  now ', disclosure: '(Paid link)' };
    const { plain, html } = postClip(words, link);
    expect(plain).toBe(`Saturn < tonight\n& tomorrow\n\nLook now\n\n(Paid link)\n\n${link.address}`);
    expect(html).toBe(
      `<p>Saturn &lt; tonight<br>&amp; tomorrow</p><p>Look now</p><p>(Paid link)</p><p><a href="${link.address}" rel="sponsored noopener" target="_blank" referrerpolicy="no-referrer-when-downgrade">${link.address}</a></p>`,
    );
    expect(postClip({ text: '', action: '', disclosure: '' }, link).plain).toBe(link.address);
  });

  it('is as long as people see it', () => {
    expect(lettersOf('👩‍🚀🔭é')).toBe(3);
  });
});
