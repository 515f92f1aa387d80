import { describe, expect, it } from 'vitest';
import { linkHtml } from './index.ts';

describe('a placed link', () => {
  it('carries its marks', () =>
    expect(
      linkHtml('https://see.nightledge.example/dob-8', '8-inch <Dobsonian> & more', {
        rel: ['sponsored', 'nofollow'],
        newTab: true,
        title: 'say "ah"',
      }),
    ).toBe(
      '<a href="https://see.nightledge.example/dob-8" rel="sponsored nofollow noopener" target="_blank" title="say &quot;ah&quot;">8-inch &lt;Dobsonian&gt; &amp; more</a>',
    ));
  it('without marks is plain', () =>
    expect(linkHtml('https://a.example/b', 'b', { rel: [], newTab: false, title: '' })).toBe(
      '<a href="https://a.example/b">b</a>',
    ));
});
