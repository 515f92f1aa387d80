import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import type { HopRecord } from './index.ts';
import { makeSieve } from './index.ts';

const person = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
const hop = (more: Partial<HopRecord>): HopRecord => ({
  seq: 1,
  kind: 'hop',
  at: 0,
  click: '01M84BDPSKXE4HN0RD2V6W3PBC',
  link: 'lnk_gloves',
  edition: 1,
  branch: 'everyone',
  source: '',
  status: 307,
  method: 'GET',
  host: 'see.nightledge.example',
  ua: person,
  visitor: 'anna',
  country: 'DE',
  device: 'desktop',
  from: '',
  query: '',
  lang: '',
  prefetch: false,
  test: false,
  ...more,
});
const minutes = 60_000;

describe('the sieve', () => {
  it('gives the first outcome that fits', () => {
    const sieve = makeSieve(isbot);
    expect(sieve(hop({ test: true, prefetch: true }))).toBe('test');
    expect(sieve(hop({ prefetch: true, ua: '' }))).toBe('prefetch');
    expect(sieve(hop({ ua: '' }))).toBe('bot');
    expect(sieve(hop({ ua: 'Mozilla/5.0 (compatible; examplebot/2.1)' }))).toBe('bot');
    expect(sieve(hop({ method: 'HEAD' }))).toBe('bot');
    expect(sieve(hop({ status: 503 }))).toBe('held');
    expect(sieve(hop({}))).toBe('counted');
  });

  it('counts a visitor again 30 minutes after the last counted click, not after the last click', () => {
    const sieve = makeSieve(isbot);
    const at = [0, 20, 29, 30, 59, 60].map((m) => sieve(hop({ at: m * minutes })));
    expect(at).toEqual(['counted', 'again', 'again', 'counted', 'again', 'counted']);
  });

  it('counts another link and another visitor by themselves', () => {
    const sieve = makeSieve(isbot);
    expect(sieve(hop({}))).toBe('counted');
    expect(sieve(hop({ link: 'lnk_chair' }))).toBe('counted');
    expect(sieve(hop({ visitor: 'ben' }))).toBe('counted');
  });

  it('takes more than 20 requests in 10 seconds for a machine', () => {
    const sieve = makeSieve(isbot);
    const outcomes = Array.from({ length: 25 }, (_, i) => sieve(hop({ at: i * 100, link: `lnk_${i}` })));
    expect(outcomes.filter((outcome) => outcome === 'bot')).toHaveLength(5);
    expect(sieve(hop({ at: 30_000, link: 'lnk_later' }))).toBe('counted');
  });
});
