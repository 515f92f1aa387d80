import { describe, expect, it } from 'vitest';
import { matchClick } from './index.ts';

const clicks = new Set(['01M84BDPSKXE4HN0RD2V6W3PBC']);
const match = (click: string) => matchClick({ click }, (id) => clicks.has(id));

describe('matching a conversion to its click', () => {
  it('is exact, letter for letter', () =>
    expect(match('01M84BDPSKXE4HN0RD2V6W3PBC')).toMatchObject({
      level: 'exact',
      click: '01M84BDPSKXE4HN0RD2V6W3PBC',
    }));
  it.each([
    ['', 'without a click ID'],
    ['01M84BDPSKXE4HN0RD2V6W3PB', 'not have the form'],
    ['01M84BDPSKXE4HN0RD2V6W3PBD', 'no such click'],
    ['01m84bdpskxe4hn0rd2v6w3pbc', 'no such click'],
  ])('"%s" is not, and says why', (click, because) => {
    const found = match(click);
    expect(found.level).toBe('none');
    expect(found.because).toContain(because);
  });
});
