import { describe, expect, it } from 'vitest';
import { wantedLanguage } from './language.ts';

describe('the language a browser wants most', () => {
  it.each([
    ['de-DE,de;q=0.9,en;q=0.8', 'de-DE'],
    ['fr', 'fr'],
    ['', ''],
    // The examples of RFC 9110 §12.5.4 and §12.4.2.
    ['da, en-gb;q=0.8, en;q=0.7', 'da'],
    ['en;q=0.5,de;q=0.9', 'de'],
    ['en; q=0.5 , nl-BE ;q=0.7, de;q=0.7', 'nl-BE'],
    ['*', ''],
    ['*;q=1, de;q=0.4', 'de'],
    ['en;q=0, de;q=0.1', 'de'],
    ['en;q=0', ''],
    ['en;q=much, de;q=0.2', 'de'],
    ['en;q=7, de;q=0.2', 'de'],
    [`${'x'.repeat(90)};q=1`, 'x'.repeat(60)],
  ])('%j is %j', (header, wanted) => expect(wantedLanguage(header)).toBe(wanted));
});
