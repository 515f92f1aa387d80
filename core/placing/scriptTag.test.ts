import { parseFragment } from 'parse5';
import { describe, expect, it } from 'vitest';
import { privacySentence, scriptPolicy, scriptTag, usualScript } from './index.ts';

const address = 'https://see.nightledge.example/place.js';
/** The attributes as a browser's parser reads them. */
const attributes = (tag: string) => {
  const [element] = parseFragment(tag).childNodes;
  return element && 'attrs' in element
    ? Object.fromEntries(element.attrs.map(({ name, value }) => [name, value]))
    : undefined;
};

describe('the script on a page', () => {
  it('is an element that says what is chosen, and nothing of what is as usual', () => {
    expect(scriptTag(address, { ...usualScript, sourceFrom: 'nothing' })).toBe(
      `<script src="${address}" defer></script>`,
    );
    expect(
      attributes(
        scriptTag(address, {
          ...usualScript,
          sourceFrom: 'visit',
          keeps: true,
          marks: false,
          clicks: false,
          reading: false,
          within: ' .post > [title="a<b"] ',
        }),
      ),
    ).toEqual({
      src: address,
      'data-source-from': 'visit',
      'data-keep': 'session',
      'data-do': 'addresses keywords',
      'data-count': '',
      'data-within': '.post > [title="a<b"]',
      defer: '',
    });
    // What is kept is the source of a visit; there is none to keep of a page.
    expect(attributes(scriptTag(address, { ...usualScript, keeps: true }))).not.toHaveProperty('data-keep');
  });

  it('asks a policy for connections only where it tells something', () => {
    const origin = 'https://see.nightledge.example';
    expect(scriptPolicy(origin, usualScript)).toBe(
      `script-src 'self' ${origin}; connect-src 'self' ${origin}`,
    );
    expect(scriptPolicy(origin, { ...usualScript, clicks: false, reading: false })).toBe(
      `script-src 'self' ${origin}`,
    );
  });

  it('is told of on the privacy page as it is', () => {
    const said = (more: object, days = 0) =>
      privacySentence('see.nightledge.example', { ...usualScript, ...more }, days);
    expect(said({})).toMatch(/how far down.*for that day alone\. Nothing is stored in your browser\.$/);
    expect(said({ reading: false })).not.toContain('how far down');
    expect(said({ sourceFrom: 'visit', keeps: true })).toMatch(/until you close the tab/);
    expect(said({}, 30)).toMatch(/cookie .* 30 days\. Nothing is stored in your browser besides\.$/);
  });
});
