import { describe, expect, it } from 'vitest';
import { isLocalHost, originOfHost } from './index.ts';

// RFC 6761 §6.3: `localhost.` and everything under it is loopback.
describe('a host of this machine', () => {
  it.each([
    ['localhost', true],
    ['see.nightledge.localhost', true],
    ['notlocalhost', false],
    ['localhost.example', false],
    ['see.nightledge.example', false],
  ])('%s: %s', (host, local) => expect(isLocalHost(host)).toBe(local));

  it('is asked by http on the server’s port, any other by https', () => {
    expect(originOfHost('see.nightledge.localhost', 4600)).toBe('http://see.nightledge.localhost:4600');
    expect(originOfHost('see.nightledge.example', 4600)).toBe('https://see.nightledge.example');
  });
});
