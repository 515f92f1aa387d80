import { expect, it } from 'vitest';
import { bareAddress } from './address.ts';

// RFC 4291 §2.5.5.2: an IPv4 address in the form of IPv6.
it.each([
  ['::ffff:192.0.2.10', '192.0.2.10'],
  ['192.0.2.10', '192.0.2.10'],
  ['2001:db8::9', '2001:db8::9'],
  ['::ffff:c000:20a', '::ffff:c000:20a'],
  ['', ''],
])('%s is %s', (address, bare) => expect(bareAddress(address)).toBe(bare));
