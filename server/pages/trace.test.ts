import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import { addressFor, isPublicAddress } from './guard.ts';
import type { TraceOptions } from './trace.ts';
import { traceSteps, wholeOf } from './trace.ts';
import { inTurn } from './turns.ts';

describe('where the tracer may go', () => {
  // Special-purpose blocks of RFC 6890 and its registries, and their mapped and translated forms.
  it.each([
    '127.0.0.1',
    '10.0.0.1',
    '172.16.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '255.255.255.255',
    '198.18.0.1',
    '::1',
    '::',
    'fe80::1',
    'fc00::1',
    'ff02::1',
    '::ffff:127.0.0.1',
    '::ffff:10.0.0.1',
    '64:ff9b::7f00:1',
    '::7f00:1',
    '::127.0.0.1',
    '::a00:1',
    '::ffff:0:7f00:1',
    '64:ff9b:1::7f00:1',
    'fec0::1',
    '100::1',
    '2001::1',
    '2002:7f00:1::1',
    'not an address',
  ])('not to %s', (address) => expect(isPublicAddress(address)).toBe(false));
  it.each(['192.0.43.8', '2001:500:88:200::8', '::ffff:192.0.43.8'])('to %s', (address) =>
    expect(isPublicAddress(address)).toBe(true),
  );

  it.each([
    'http://localhost/',
    'http://localhost:4600/',
    'http://see.nightledge.localhost:22/',
    'http://127.0.0.1/',
    'http://2130706433/',
    'http://0x7f.1/',
    'http://[::1]/',
    'http://[::ffff:7f00:1]/',
    'http://[::7f00:1]/',
    'http://192.0.43.8:22/',
    'http://user@192.0.43.8/',
    'ftp://192.0.43.8/',
    'file:///etc/passwd',
  ])('%s is refused before anything is sent', async (url) => {
    await expect(addressFor(new URL(url), { localPorts: [4600] })).rejects.toThrow(/\.$/);
  });

  it('to the stand-ins while they run', async () =>
    expect(await addressFor(new URL('http://shop.localhost:4601/x'), { localPorts: [4601] })).toMatchObject({
      address: '127.0.0.1',
    }));
});

type Answer = string | { readonly html: string } | { readonly status: number; readonly refresh?: string };

/** Serves answers by path: a text is where a redirect leads, the rest are pages. */
const chain = async (path: string, answers: Readonly<Record<string, Answer>>, options: TraceOptions = {}) => {
  const asked: { url: string; cookie: string; agent: string }[] = [];
  const server = createServer((request, response) => {
    const url = request.url ?? '';
    asked.push({ url, cookie: request.headers.cookie ?? '', agent: request.headers['user-agent'] ?? '' });
    const answer = answers[url];
    if (typeof answer === 'string')
      response.writeHead(302, { Location: answer, 'Cache-Control': 'no-store' });
    else if (answer && 'status' in answer)
      response.writeHead(answer.status, answer.refresh === undefined ? {} : { Refresh: answer.refresh });
    else if (answer && 'html' in answer) {
      response.writeHead(200, { 'Content-Type': 'text/html', 'Set-Cookie': 'seen=12345; Path=/' });
      response.write(answer.html);
    } else response.writeHead(200, { 'Set-Cookie': ['hm=1; Path=/', 'x=2'] });
    response.end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo; // it listens on a port
  const url = `http://a.localhost:${port}${path}`;
  const result = await wholeOf(traceSteps(url, { localPorts: [port] }, options));
  server.close();
  return { ...result, asked };
};

describe('a trace', () => {
  it('tells every hop to the end', async () => {
    const { hops, end } = await chain('/1', { '/1': '/2?x=', '/2?x=': '/3' });
    expect(end).toBe('arrived');
    expect(hops.map((hop) => [new URL(hop.url).pathname, hop.status, hop.location])).toEqual([
      ['/1', 302, '/2?x='],
      ['/2', 302, '/3'],
      ['/3', 200, null],
    ]);
    expect(hops[0]?.headers).toEqual({ 'cache-control': 'no-store' });
    expect(hops[2]?.cookies).toEqual(['hm', 'x']);
  });

  it('follows refreshes and simple scripts, with the cookies set on the way', async () => {
    const { hops, asked, end } = await chain('/1', {
      '/1': { html: '<meta http-equiv="Refresh" content="0; URL=\'/2?a=1&amp;b=2\'">' },
      '/2?a=1&b=2': { html: '<script>window.location.href = "\\u002f3"</script>' },
      '/3': { html: '<script>if (x) { document.location.replace("/4") }</script>' },
      '/4': { html: '<title>Moon filter</title>' },
    });
    expect(hops.map((hop) => hop.by)).toEqual(['refresh', 'script', 'script', null]);
    expect(end).toBe('arrived');
    expect(asked.map((a) => a.cookie)).toEqual(['', 'seen=12345', 'seen=12345', 'seen=12345']);
    expect(hops.at(-1)?.title).toBe('Moon filter');
  });

  it('as a robot that draws previews goes where a status sends it, and shows the first page it is given', async () => {
    const page =
      '<title>Wait a moment</title><meta property="og:title" content="Saturn kit"><meta property="og:image" content="/kit.png"><meta http-equiv="refresh" content="2;url=/shop"><script>location.href = "/shop"</script>';
    const answers = { '/1': '/2', '/2': { html: page }, '/shop': { html: '<title>Shop</title>' } };
    const seen = await chain('/1', answers, { asPreview: true });
    expect(seen.asked.map(({ url }) => url)).toEqual(['/1', '/2']);
    expect(seen.asked.every(({ agent }) => isbot(agent))).toBe(true);
    expect(seen).toMatchObject({
      end: 'arrived',
      page: { title: 'Saturn kit', picture: expect.stringMatching(/\/kit\.png$/) },
    });
    // Whoever is no such robot goes on.
    expect((await chain('/1', answers)).page?.title).toBe('Shop');
  });

  it('follows a Refresh header, and a script’s variable where it is one plain text', async () => {
    const { hops, end } = await chain('/1', {
      '/1': { status: 200, refresh: '0; url=/2' },
      '/2': { html: '<script>var go = "/3";\n setTimeout(function(){ location.href = go; }, 10)</script>' },
      '/3': { html: "<script>const to='/4'; location.replace(to)</script>" },
      '/4': { html: '<title>Moon filter</title>' },
    });
    expect(hops.map((hop) => hop.by)).toEqual(['refresh', 'script', 'script', null]);
    expect(end).toBe('arrived');
  });

  it('explains a redirect that names no address', async () => {
    const { hops, end, because } = await chain('/1', { '/1': '/2', '/2': { status: 302 } });
    expect([end, hops.length]).toEqual(['stopped', 2]);
    expect(because).toContain('answered 302');
    expect(because).toContain('no Location');
  });

  it('notices a page that was found and says there is nothing left', async () => {
    const { hops, because } = await chain('/1', { '/1': { html: '<title>Shop</title><h1>Sold out</h1>' } });
    expect(hops[0]?.dead).toBe('Sold out');
    expect(because).toContain('Sold out');
  });

  it('goes on to the order page and tells what is still known there', async () => {
    const { order } = await chain(
      '/1?click=HM0001',
      {
        '/1?click=HM0001': { html: '<a href="/basket?item=7">Buy</a>' },
        '/basket?item=7': { html: '<form method="post"><input name="seen" value="12345"></form>' },
      },
      { toOrder: true },
    );
    expect(order).toMatchObject({ status: 200, surviving: ['seen'] });
  });

  it('is not brought down by a page nested a hundred thousand deep', async () => {
    const { end } = await chain('/1', { '/1': { html: '<b>'.repeat(100_000) } });
    expect(end).toBe('arrived');
  });

  it('stops when it is told to', async () => {
    const stop = new AbortController();
    stop.abort();
    expect(await chain('/1', {}, { signal: stop.signal })).toMatchObject({
      end: 'stopped',
      because: 'You stopped it.',
    });
  });

  it('asks a host for no more than two at a time', async () => {
    let now = 0;
    let most = 0;
    await Promise.all(
      Array.from({ length: 9 }, () =>
        inTurn('a.example', new AbortController().signal, async () => {
          most = Math.max(most, (now += 1));
          await new Promise((resolve) => setTimeout(resolve, 5));
          now -= 1;
        }),
      ),
    );
    expect([most, now]).toEqual([2, 0]);
  });
  it('notices a loop', async () => expect((await chain('/1', { '/1': '/2', '/2': '/1' })).end).toBe('loop'));
  it('ends after twenty hops', async () => {
    const many = Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`/${i}`, `/${i + 1}`]));
    const { hops, end } = await chain('/0', many);
    expect([hops.length, end]).toEqual([20, 'too many hops']);
  });
  it.each([
    'http://127.0.0.1:22/',
    'http://169.254.169.254/latest/meta-data',
    'file:///etc/passwd',
    'http://[',
  ])('does not follow a hop to %s', async (inside) => {
    const { hops, end } = await chain('/1', { '/1': inside });
    expect(end).toBe('stopped');
    expect(hops.filter((hop) => hop.status !== 0)).toHaveLength(1);
  });
});
