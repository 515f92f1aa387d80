import { describe, expect, it } from 'vitest';
import { readHeaders } from './headers.ts';

describe('the headers a hop looks at', () => {
  it('are found in any case, the first of each, and nothing else', () =>
    expect(
      readHeaders([
        'HOST',
        'see.nightledge.example',
        'Host',
        'evil.example',
        'user-agent',
        'Firefox',
        'Cookie',
        'a=b',
        'Referer',
        'https://nightledge.example/',
        'Accept-Language',
        'de',
        'Sec-CH-UA-Mobile',
        '?1',
        'Sec-Purpose',
        'prefetch;prerender',
        'Purpose',
        'other',
        'dangling',
      ]),
    ).toEqual({
      host: 'see.nightledge.example',
      userAgent: 'Firefox',
      referer: 'https://nightledge.example/',
      language: 'de',
      mobile: '?1',
      purpose: 'prefetch;prerender',
      forwarded: false,
      proto: '',
      twoHosts: true,
      cookie: 'a=b',
    }));
  it.each([['X-Moz'], ['Purpose'], ['sec-purpose']])('a prefetch may be told by %s', (name) =>
    expect(readHeaders([name, 'prefetch']).purpose).toBe('prefetch'),
  );
});
