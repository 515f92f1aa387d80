import fc from 'fast-check';
import { parse } from 'parse5';
import { describe, expect, it } from 'vitest';
import type { HopChoices } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { clickId, closedPage, describeHop, hopPage, prepareLink, readTarget, respond } from './index.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const nonce = '01M84BDPSKXE4HN0RD2V6W3PBC';
const choices = (more: Partial<HopChoices>): HopChoices => ({ ...domain.hop, ...more });

interface Node {
  readonly nodeName: string;
  readonly attrs?: readonly { name: string; value: string }[];
  readonly childNodes?: readonly Node[];
  readonly value?: string;
}
/** Every element of a page, as a browser's parser sees it (parse5 follows the HTML standard). */
const elements = (html: string): Node[] => {
  const all: Node[] = [];
  const walk = (node: Node) => {
    all.push(node);
    node.childNodes?.forEach(walk);
  };
  walk(parse(html, { scriptingEnabled: false }) as Node);
  return all;
};
const attribute = (node: Node | undefined, name: string) => node?.attrs?.find((a) => a.name === name)?.value;
const named = (all: Node[], name: string) => all.filter((node) => node.nodeName === name);

/** The address a refresh leads to, by the HTML standard's shared declarative refresh steps, for an unquoted one. */
const refreshOf = (all: Node[]) => {
  const meta = named(all, 'meta').find((node) => attribute(node, 'http-equiv') === 'refresh');
  return /^(\d+);url=(.*)$/s.exec(attribute(meta, 'content') ?? '')?.slice(1);
};

const nasty = fc.string({ unit: fc.constantFrom(...'</script>"\'<!--&;=\u2028\\ab]]>'.split('')) });

describe('a page that sends on', () => {
  it('shows the words of a waiting page only while there is something to wait for, as its form does', () => {
    const wait = { text: 'Wait a moment.', button: 'On we go', progress: true };
    const page = (seconds: number) =>
      hopPage(choices({ page: 'refresh', wait: { ...wait, seconds } }), 'https://a.example/', nonce, 'x')
        .html;
    expect(page(3)).toContain('Wait a moment.');
    expect(page(3)).toContain('On we go');
    expect(page(0)).not.toContain('Wait a moment.');
    expect(page(0)).not.toContain('On we go');
  });

  it('shows a picture of the person’s own, which its policy lets it load from there and nowhere else', () => {
    const wait = { seconds: 3, text: '', button: '', progress: false };
    const picture = 'https://img.nightledge.example/moon.png?a=1&b=2';
    const shown = hopPage(
      choices({ page: 'refresh', wait: { ...wait, picture } }),
      'https://a.example/',
      nonce,
      'x',
    );
    expect(named(elements(shown.html), 'img').map((node) => attribute(node, 'src'))).toEqual([picture]);
    expect(shown.policy).toContain('img-src https://img.nightledge.example;');
    const without = hopPage(choices({ page: 'refresh', wait }), 'https://a.example/', nonce, 'x');
    expect(without.policy).not.toContain('img-src');
  });

  it('leads to the very address, whatever stands in it', () => {
    fc.assert(
      fc.property(nasty, fc.constantFrom('refresh' as const, 'script' as const), (text, page) => {
        const location = `https://polehouse.example/?q=${text}`;
        const { html } = hopPage(
          choices({ page, wait: { seconds: 3, text, button: text, progress: true } }),
          location,
          nonce,
          text,
        );
        const all = elements(html);
        expect(refreshOf(all)).toEqual(['3', location]);
        expect(named(all, 'a').map((node) => attribute(node, 'href'))).toEqual([location]);
        // Nothing of the value became an element of its own.
        expect(named(all, 'script')).toHaveLength(page === 'script' ? 1 : 0);
        expect(named(all, 'p').length).toBeLessThanOrEqual(3);
        const script = named(all, 'script')[0]?.childNodes?.[0]?.value ?? '';
        if (page === 'script') {
          const written = /location\.replace\((".*")\)/s.exec(script)?.[1] ?? '""';
          expect(JSON.parse(written)).toBe(location);
        }
      }),
    );
  });

  it('frames the shop under a title of its own, fit for phones', () => {
    const { html, policy } = hopPage(
      choices({ page: 'frame', frameTitle: 'Kits & more' }),
      'https://a.example/?a=1&b=2',
      nonce,
      'see.example',
    );
    const all = elements(html);
    expect(attribute(named(all, 'iframe')[0], 'src')).toBe('https://a.example/?a=1&b=2');
    expect(named(all, 'title')[0]?.childNodes?.[0]?.value).toBe('Kits & more');
    expect(html).toContain('name="viewport"');
    expect(policy).toContain('frame-src http: https:');
    expect(policy).not.toContain('script-src');
  });

  it('tells for how long it was in sight, from a frame and while somebody waits, and writes what it names as plain text', () => {
    fc.assert(
      fc.property(
        nasty,
        nasty,
        fc.constantFrom('frame', 'refresh', 'script'),
        fc.nat(3),
        (link, click, page, s) => {
          const wait = { ...domain.hop.wait, seconds: s };
          const { html, policy } = hopPage(
            choices({ page: page as 'frame', wait }),
            'https://a.example/',
            nonce,
            'x',
            { link, click },
          );
          const scripts = named(elements(html), 'script').map((node) => node.childNodes?.[0]?.value ?? '');
          const told = scripts.filter((text) => text.includes('sendBeacon'));
          const stays = page === 'frame' || s > 0;
          expect(told.length).toBe(stays ? 1 : 0);
          expect(policy.includes("connect-src 'self'")).toBe(stays);
          if (!stays) return;
          const sent: string[] = [];
          let hide: () => void = () => undefined;
          const window = { hidden: true, addEventListener: (_: string, go: () => void) => (hide = go) };
          let clock = 5000;
          new Function('document', 'performance', 'navigator', 'location', told[0] ?? '')(
            window,
            { now: () => clock },
            { sendBeacon: (_: string, body: string) => sent.push(body) },
            { origin: 'https://see.example', pathname: '/kit' },
          );
          clock += 12_400;
          hide();
          expect(sent.map((body) => JSON.parse(body) as object)).toEqual([
            { event: 'time', link, click, page: 'https://see.example/kit', seconds: 12 },
          ]);
        },
      ),
    );
    const own = choices({ page: 'frame', scripts: ['https://count.example/a.js'] });
    expect(hopPage(own, 'https://a.example/', nonce, 'x', { link: 'a', click: 'b' }).policy).toContain(
      `script-src 'nonce-${nonce}'; connect-src 'self' https://count.example;`,
    );
  });

  it('lets in the scripts it was given and no others', () => {
    const { html, policy } = hopPage(
      choices({
        page: 'refresh',
        scripts: ['https://count.example/a.js', 'https://count.example/b.js?x="y'],
      }),
      'https://a.example/',
      nonce,
      'see.example',
    );
    expect(named(elements(html), 'script').map((node) => attribute(node, 'src'))).toEqual([
      'https://count.example/a.js',
      'https://count.example/b.js?x="y',
    ]);
    expect(policy).toContain(
      `script-src 'nonce-${nonce}'; connect-src https://count.example; img-src https://count.example`,
    );
    expect(hopPage(choices({ page: 'refresh' }), 'https://a.example/', nonce, 'x').policy).not.toContain(
      'script-src',
    );
  });

  it('asks for a mail address in words that cannot break out', () => {
    const { html } = closedPage(
      { words: '</p><script>x</script>', askMail: true, consent: '"><b>' },
      nonce,
      'x',
    );
    const all = elements(html);
    expect(named(all, 'script')).toHaveLength(0);
    expect(named(all, 'b')).toHaveLength(0);
    expect(named(all, 'input').map((node) => attribute(node, 'name'))).toEqual(['mail', 'consent']);
  });
});

describe('a hop by way of two pages', () => {
  const made = prepareLink(
    { id: 'lnk_1', destination: 'https://a.example/?c={click}', asText: [] },
    choices({ page: 'refresh', twice: true, pass: 'all' }),
    domain,
  );
  if (!made.ok) throw new Error('a good link');
  const ready = made.value;
  const request = {
    at: 1_795_442_531_123,
    source: '',
    query: 'kw=rings',
    country: '',
    device: 'phone' as const,
    language: '',
    visitor: 'anna',
    returning: false,
  };
  const id = clickId(request.at, new Uint8Array(10));

  it('goes to itself first, with click and branch, and then on with the same click', () => {
    const place = { host: 'see.example', path: 'go/kit', nonce: () => 'n0' };
    const sealSecondPage = (branch: string) => `${id}.${branch}.sealed`;
    const first = respond(ready, { branch: 'everyone' }, request, id, { ...place, sealSecondPage });
    const self = refreshOf(elements(first.body))?.[1] ?? '';
    expect(self).toBe(`/go/kit?second-page=${id}.everyone.sealed&kw=rings`);
    const asked = readTarget(self);
    expect(asked).toMatchObject({ path: 'go/kit', secondPage: `${id}.everyone.sealed`, query: 'kw=rings' });
    const second = respond(ready, { branch: 'everyone' }, request, id, place);
    expect(refreshOf(elements(second.body))?.[1]).toBe(`https://a.example/?c=${id}&kw=rings`);
    expect(first.headers[first.headers.indexOf('Referrer-Policy') + 1]).toBe('no-referrer');
  });

  it('keeps the source on its way', () => {
    const place = { host: 'see.example', path: 'kit', nonce: () => 'n0', sealSecondPage: () => 'sealed' };
    const { body } = respond(ready, { branch: 'everyone' }, { ...request, source: 'flyer' }, id, place);
    const asked = readTarget(refreshOf(elements(body))?.[1] ?? '');
    expect(asked).toMatchObject({ path: 'kit', source: 'flyer', secondPage: 'sealed' });
  });

  it('is told in words', () =>
    expect(describeHop(ready.choices)).toBe(
      'A page that goes on by refresh at once, referrer hidden, by way of two pages, passes every parameter on.',
    ));
});
