import UserAgent from 'user-agents';
import { describe, expect, it } from 'vitest';
import { browserOf } from './browsers.ts';

/** What real browsers say of their machine beside the user agent (`navigator.platform`), by the system it means. */
const systemOf = (platform: string): string | undefined => {
  if (/^(iPhone|iPad|iPod)/.test(platform)) return 'iOS';
  if (platform.startsWith('Win')) return 'Windows';
  if (platform.startsWith('Mac')) return 'macOS';
  return /^Linux (armv|aarch64)/.test(platform) ? 'Android' : undefined;
};

describe('browsers and systems', () => {
  it('are those of real user agents: the system as the platform beside it says, in at least 97 of 100', () => {
    let [asked, right] = [0, 0];
    const wrong: string[] = [];
    for (let i = 0; i < 3000; i++) {
      const { userAgent, platform } = new UserAgent().data;
      const expected = systemOf(platform);
      if (expected === undefined) continue;
      asked += 1;
      const { system, browser } = browserOf(userAgent);
      expect([userAgent, browser]).not.toEqual([userAgent, '']);
      if (system === expected) right += 1;
      else wrong.push(`${platform} ${system} ${userAgent}`);
    }
    expect(asked).toBeGreaterThan(2000);
    expect(right / asked, wrong.slice(0, 5).join('\n')).toBeGreaterThan(0.97);
  });

  it.each([
    ['', '', ''],
    ['  ', '', ''],
    ['curl/8.5.0', '', ''],
    ['Mozilla/5.0 (X11; Linux x86_64; rv:141.0) Gecko/20100101 Firefox/141.0', 'Firefox', 'Linux'],
  ])('of %j', (userAgent, browser, system) => {
    expect(browserOf(userAgent)).toEqual({ browser, system });
  });

  it('of 10 KB are read from their beginning', () => {
    const long = (first: string) => browserOf(`${first} ${'version/ '.repeat(1200)}`);
    expect(browserOf('x'.repeat(10_240))).toEqual({ browser: '', system: '' });
    expect(long('Mozilla/5.0 (X11; Linux x86_64; rv:141.0) Gecko/20100101 Firefox/141.0')).toEqual({
      browser: 'Firefox',
      system: 'Linux',
    });
  });
});
