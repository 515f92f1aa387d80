import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it, vi } from 'vitest';
import { freshFolder } from '../testing/process.ts';
import { openCountries } from './country.ts';
import { visitorAddress, Visitors } from './visitor.ts';

const day = Date.parse('2026-11-23T12:00:00Z');

describe('knowing a visitor', () => {
  it('takes an IPv6 address by its /64 and unwraps IPv4', () => {
    expect(visitorAddress('2001:db8:1:2:3:4:5:6')).toBe(visitorAddress('2001:db8:1:2::9'));
    expect(visitorAddress('2001:db8:1:2::9')).not.toBe(visitorAddress('2001:db8:1:3::9'));
    expect(visitorAddress('::ffff:203.0.113.9')).toBe('203.0.113.9');
    expect(visitorAddress('fe80::1%eth0')).toBe(visitorAddress('fe80::2'));
  });

  it('lasts for a UTC day and through a restart, and no longer', async () => {
    const path = join(freshFolder(), 'salt');
    const first = new Visitors(path);
    const anna = first.of('203.0.113.9', 'Firefox', day);
    expect(anna).toMatch(/^[0-9a-f]{16}$/);
    await vi.waitFor(() => expect(statSync(path).mode & 0o777).toBe(0o600));
    const salt = readFileSync(path, 'utf8');
    const restarted = new Visitors(path);
    expect(restarted.of('203.0.113.9', 'Firefox', day + 3600_000)).toBe(anna);
    expect(restarted.of('203.0.113.9', 'Chrome', day)).not.toBe(anna);
    expect(restarted.of('203.0.113.9', 'Firefox', day + 12 * 3600_000)).not.toBe(anna);
    await vi.waitFor(() => expect(readFileSync(path, 'utf8')).not.toBe(salt));
    expect(readFileSync(path, 'utf8')).not.toContain(salt.split(' ')[1]);
  });
});

describe('the country of an address', () => {
  // Blocks delegated to one country each, by the registries' published delegation files (from memory): RIPE NCC's
  // own network is NL, 133.0.0.0/8 is mostly JP.
  it.each([
    ['193.0.6.139', 'NL'],
    ['133.11.0.1', 'JP'],
    ['::ffff:133.11.0.1', 'JP'],
    ['127.0.0.1', ''],
    ['no address', ''],
  ])('%s is in "%s"', async (address, country) => {
    expect((await openCountries(undefined))(address)).toBe(country);
  });
});
