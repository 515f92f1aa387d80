import type { Chance } from './chance.ts';

/** A request made up to be careless or hostile, as bytes, and what may come of it. */
export interface MadeRequest {
  readonly bytes: Buffer;
  readonly what: 'postback' | 'hop' | 'pixel' | 'beacon' | 'api' | 'own address' | 'stranger';
  /** Of a postback with a key that is known: what has to be kept where it is answered 200. */
  readonly postback?: { readonly tag: string; readonly query: Buffer; readonly body: Buffer | null };
}

/** The server the requests are for. */
export interface Aim {
  readonly port: number;
  readonly host: string;
  readonly postbackKey: string;
  readonly pixelKey: string;
  readonly slugs: readonly string[];
}

/** A click ID that no hop may ever carry: it only stands in requests that make themselves up to be a second page. */
export const chosenClick = '01M84BDPSKXE4HN0RD2V6W3PBC';

const nasty = [
  '%',
  '%zz',
  '%0A',
  '%0d%0aX-Injected:%20yes',
  '%00',
  '%C3',
  '\xe9',
  '\xff\xfe',
  'click=%tag%',
  'note=50%+off',
  'sig=%ff',
  '{click}',
  '[[ref1]]',
  '#',
  '//evil.example',
  '\\evil.example',
  '@evil.example',
  '../..',
  '"><script>alert(1)</script>',
  "';alert(1)//",
  '&&&=',
  '__proto__=1',
  'constructor[prototype]=1',
  'from=a%0ab',
  '?test=1',
];
const latin = (text: string) => Buffer.from(text, 'latin1');

/** Bytes for the address of a request: mostly such as a parser lets through, at times any at all. */
const addressBytes = (chance: Chance): Buffer => {
  const parts = Array.from({ length: 1 + chance.below(5) }, () => {
    const kind = chance.below(10);
    if (kind < 5) return latin(chance.one(nasty));
    if (kind < 9) return chance.bytes(1 + chance.below(20), 0x21, 0x7e);
    return chance.below(4) === 0 ? chance.bytes(6) : chance.bytes(6, 0x80, 0xff);
  });
  return Buffer.concat(parts.flatMap((part, i) => (i === 0 ? [part] : [latin('&'), part])));
};

/** What a parser takes for the address: a space ends it (RFC 9112 §3), and those before the version are no part of it. */
const addressOf = (bytes: Buffer): Buffer => {
  let end = bytes.length;
  while (bytes[end - 1] === 0x20) end -= 1;
  return bytes.subarray(0, end);
};

const bodyBytes = (chance: Chance): Buffer => {
  const kind = chance.below(6);
  if (kind === 0) return Buffer.alloc(0);
  if (kind === 1) return Buffer.from('{"txn":"7","amount":13.83,"é":"日本"}');
  if (kind === 2) return addressBytes(chance);
  if (kind === 3) return chance.bytes(70_000);
  return chance.bytes(chance.below(2000));
};

const chunked = (chance: Chance, body: Buffer): Buffer => {
  const parts: Buffer[] = [];
  for (let at = 0; at < body.length;) {
    const size = 1 + chance.below(Math.min(20_000, body.length - at));
    parts.push(latin(`${size.toString(16)}\r\n`), body.subarray(at, at + size), latin('\r\n'));
    at += size;
  }
  return Buffer.concat([...parts, latin('0\r\n\r\n')]);
};

const agents = [
  'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Firefox/140.0',
  'curl/8.5',
  '',
  '\xe9\x80',
  'A'.repeat(900),
];
const types = [
  'application/x-www-form-urlencoded',
  'application/json',
  'text/plain; charset=latin1',
  'é',
  '',
];

const headersOf = (chance: Chance): string =>
  [
    `User-Agent: ${chance.one(agents)}`,
    ...(chance.below(4) === 0 ? ['Sec-Purpose: prefetch'] : []),
    ...(chance.below(4) === 0 ? [`Referer: https://nightledge.example/${chance.below(99)}"<`] : []),
    ...(chance.below(6) === 0 ? ['Expect: something-else'] : []),
    ...(chance.below(6) === 0 ? ['Accept-Language: \xe9,de;q=2'] : []),
    ...(chance.below(6) === 0 ? ['Cookie: visitor=0011223344556677; a=b'] : []),
    'Connection: close',
  ].join('\r\n');

const request = (
  method: string,
  target: Buffer,
  host: string | undefined,
  headers: string,
  body?: Buffer,
  version = '1.1',
): Buffer =>
  Buffer.concat([
    latin(`${method} `),
    target,
    latin(` HTTP/${version}\r\n${host === undefined ? '' : `Host: ${host}\r\n`}${headers}\r\n\r\n`),
    ...(body ? [body] : []),
  ]);

const withBody = (
  chance: Chance,
  method: string,
  target: Buffer,
  host: string | undefined,
  body: Buffer,
): Buffer => {
  const split = chance.below(3) === 0;
  const length = split ? 'Transfer-Encoding: chunked' : `Content-Length: ${body.length}`;
  const headers = `${headersOf(chance)}\r\nContent-Type: ${chance.one(types)}\r\n${length}`;
  return request(method, target, host, headers, split ? chunked(chance, body) : body);
};

/** Makes up the `n`-th request; the same chance gives the same ones. */
export const makeRequest = (chance: Chance, aim: Aim, n: number): MadeRequest => {
  const hosts = [aim.host, `${aim.host}:${aim.port}`, `localhost:${aim.port}`, 'nowhere.example'];
  const kind = chance.below(100);
  if (kind < 40) {
    const tag = `n=${n}&`;
    const known = chance.below(5) > 0;
    const key = known ? aim.postbackKey : chance.one(['k'.repeat(30), '', '../x', '%', aim.pixelKey]);
    const query = Buffer.concat([latin(tag), addressBytes(chance)]);
    const target = Buffer.concat([latin(`/postback/${key}${chance.below(9) === 0 ? '/' : ''}?`), query]);
    const host = chance.below(12) === 0 ? undefined : chance.one(hosts);
    if (chance.below(2) === 0) {
      const version = host === undefined ? '1.0' : '1.1';
      const bytes = request('GET', target, host, headersOf(chance), undefined, version);
      return {
        what: 'postback',
        bytes,
        ...(known && { postback: { tag, query: addressOf(query), body: null } }),
      };
    }
    const body = bodyBytes(chance);
    const bytes = withBody(chance, 'POST', target, host, body);
    return { what: 'postback', bytes, ...(known && { postback: { tag, query: addressOf(query), body } }) };
  }
  if (kind < 70) {
    const path = latin(`/${chance.one([...aim.slugs, 'nothing', '__proto__', 'constructor'])}`);
    const extra = chance.one([
      latin(''),
      latin(`~${chance.one(['newsletter', 'a%0ab', '%7e', '"x', '\xe9'])}`),
      latin(`?second-page=${chosenClick}.${chance.one(['everyone', 'before', 'b1'])}.${'A'.repeat(22)}`),
      latin(`?second-page=${chosenClick}.everyone&from=guide&kw=a`),
      Buffer.concat([latin('?'), addressBytes(chance)]),
      Buffer.concat([latin('/'), addressBytes(chance)]),
    ]);
    const method = chance.one(['GET', 'GET', 'GET', 'HEAD', 'POST', 'PUT', 'OPTIONS']);
    const target = Buffer.concat([path, extra]);
    const bytes =
      method === 'POST'
        ? withBody(chance, method, target, aim.host, bodyBytes(chance))
        : request(method, target, aim.host, headersOf(chance));
    return { what: 'hop', bytes };
  }
  if (kind < 76) {
    const key = chance.one([aim.pixelKey, aim.postbackKey, 'x', '%00']);
    const target = Buffer.concat([latin(`/pixel/${key}.gif?`), addressBytes(chance)]);
    return { what: 'pixel', bytes: request('GET', target, chance.one(hosts), headersOf(chance)) };
  }
  if (kind < 84) {
    const body = chance.one([
      bodyBytes(chance),
      Buffer.from(
        JSON.stringify({
          event: chance.one(['click', 'time', 'win']),
          click: chance.one([chosenClick, 'x', '']),
          link: chance.one(['lnk_kit', 'lnk_none', '__proto__']),
          page: 'https://nightledge.example/"<script>',
          seconds: chance.one([0, 5, -1, 1e9]),
        }),
      ),
    ]);
    const target = Buffer.concat([latin('/beacon?'), addressBytes(chance)]);
    return { what: 'beacon', bytes: withBody(chance, 'POST', target, aim.host, body) };
  }
  if (kind < 90) {
    const path = chance.one([
      'changes',
      'journal',
      'live',
      'about',
      'waitingList',
      'rejected',
      'faults',
      'key',
      'trace',
      'health',
      '%',
    ]);
    const target = Buffer.concat([latin(`/api/${path}?after=`), addressBytes(chance)]);
    const method = chance.one(['GET', 'POST', 'DELETE', 'PATCH']);
    const bytes = withBody(chance, method, target, `localhost:${aim.port}`, bodyBytes(chance));
    return { what: 'api', bytes };
  }
  if (kind < 95) {
    const path = chance.one([
      'robots.txt',
      'place.js',
      'thanks.js',
      '.well-known/fernhop',
      '.well-known/%',
      'beacon',
    ]);
    const target = Buffer.concat([latin(`/${path}?`), addressBytes(chance)]);
    return { what: 'own address', bytes: request('GET', target, aim.host, headersOf(chance)) };
  }
  const target = Buffer.concat([latin('/'), addressBytes(chance)]);
  const host = chance.one([
    `${aim.host}\r\nHost: ${aim.host}`,
    'evil.example',
    `${aim.host}@evil.example`,
    '\xe9',
  ]);
  return { what: 'stranger', bytes: request('GET', target, host, headersOf(chance)) };
};
