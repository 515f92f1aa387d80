import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { LogLine } from './accessLog.ts';
import { logFormOf, logReader } from './accessLog.ts';

const readAll = (text: string): LogLine[] => {
  const lines = text.split('\n');
  const form = logFormOf(lines);
  if (form === undefined) throw new Error('The form is known.');
  return lines.map(logReader(form));
};
const requestsIn = (text: string) =>
  readAll(text).flatMap((line) => (line.kind === 'request' ? [line.request] : []));
const whyNot = (text: string) => readAll(text).flatMap((line) => (line.kind === 'unread' ? [line.why] : []));
const empty = { host: '', referrer: '', language: '' };

describe('the combined form', () => {
  it('is read as the Apache HTTP Server documentation explains it', () => {
    // The example of "Log Files", Combined Log Format.
    const line =
      '127.0.0.1 - frank [10/Oct/2000:13:55:36 -0700] "GET /apache_pb.gif HTTP/1.0" 200 2326 "http://www.example.com/start.html" "Mozilla/4.08 [en] (Win98; I ;Nav)"';
    expect(requestsIn(line)).toEqual([
      {
        ...empty,
        at: Date.UTC(2000, 9, 10, 20, 55, 36),
        ...{ address: '127.0.0.1', method: 'GET', target: '/apache_pb.gif', status: 200 },
        referrer: 'http://www.example.com/start.html',
        ua: 'Mozilla/4.08 [en] (Win98; I ;Nav)',
      },
    ]);
  });

  it.each([
    [
      'a host in front',
      'see.example:443 ::1 - - [24/Oct/2026:08:00:00 +0200] "GET /a HTTP/2.0" 307 0 "-" "x"',
      { host: 'see.example', address: '::1' },
    ],
    [
      'parts behind',
      '::1 - - [24/Oct/2026:08:00:00 +0200] "GET /a HTTP/1.1" 307 0 "-" "x" "203.0.113.7" 0.004',
      { ua: 'x', referrer: '' },
    ],
    [
      'escaped quotes',
      String.raw`::1 - - [24/Oct/2026:08:00:00 +0200] "GET /a HTTP/1.1" 307 - "-" "say \"hi\" \\ to"`,
      { ua: 'say "hi" \\ to' },
    ],
    [
      'bytes as UTF-8',
      String.raw`::1 - - [24/Oct/2026:08:00:00 +0200] "GET /a HTTP/1.1" 307 - "-" "\xC3\xBCber 50%"`,
      { ua: 'über 50%' },
    ],
    [
      'bytes that are none',
      String.raw`::1 - - [24/Oct/2026:08:00:00 +0200] "GET /a HTTP/1.1" 307 - "-" "\xFC"`,
      { ua: 'ü' },
    ],
    [
      'a name with a space',
      '::1 - my name [24/Oct/2026:08:00:00 +0000] "HEAD /a HTTP/1.1" 307 0 "-" "-"',
      { method: 'HEAD', ua: '', at: Date.UTC(2026, 9, 24, 8), address: '::1', host: '' },
    ],
    ['no version of HTTP', '::1 - - [24/Oct/2026:08:00:00 +0000] "GET /a" 307 0 "-" "x"', { target: '/a' }],
  ])('bears %s', (_, line, expected) => {
    expect(requestsIn(line)).toMatchObject([expected]);
  });

  it('has each moment right, whichever came before it', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            at: fc
              .integer({ min: Date.UTC(2026, 2, 28), max: Date.UTC(2026, 2, 30) })
              .map((ms) => Math.floor(ms / 1000) * 1000),
            // Lines of one minute lie side by side, now and then in another zone.
            apart: fc.constantFrom(0, 1, 59, 60),
            zone: fc.constantFrom(0, 0, 60, -210, 345),
          }),
          { minLength: 1, maxLength: 20 },
        ),
        (moments) => {
          const all = moments.flatMap(({ at, apart, zone }) => [
            { at, zone },
            { at: at + apart * 1000, zone },
          ]);
          const log = all.map(({ at, zone }) => {
            const [, day, month, year, time] =
              /^..., (\d\d) (...) (\d{4}) (\S+) GMT$/.exec(new Date(at + zone * 60_000).toUTCString()) ?? [];
            const sign = zone < 0 ? '-' : '+';
            const [hours, minutes] = [Math.floor(Math.abs(zone) / 60), Math.abs(zone) % 60].map((n) =>
              String(n).padStart(2, '0'),
            );
            return `::1 - - [${day}/${month}/${year}:${time} ${sign}${hours}${minutes}] "GET /a HTTP/1.1" 307 0 "-" "x"`;
          });
          expect(requestsIn(log.join('\n')).map(({ at }) => at)).toEqual(all.map(({ at }) => at));
        },
      ),
    ));

  it('says what cannot be read, and passes over what is no request', () => {
    const good = '::1 - - [24/Oct/2026:08:00:00 +0200] "GET /a HTTP/1.1" 307 0 "-" "x"';
    expect(whyNot(`${good}\n${good.slice(0, 40)}`)[0]).toMatch(/may be cut off/);
    expect(whyNot(`${good}\n${good.slice(0, good.indexOf(' "-"'))}`)[0]).toMatch(/no user agent/);
    for (const time of [
      '31/Feb/2026:08:00:00 +0200',
      '24/Okt/2026:08:00:00 +0200',
      '24/Oct/2026:28:00:00 +0200',
      '24.10.2026',
    ])
      expect(whyNot(`${good}\n${good.replace('24/Oct/2026:08:00:00 +0200', time)}`)[0]).toMatch(
        /no time such as/,
      );
    for (const asked of ['-', String.raw`\x16\x03\x01`, 'GET', ''])
      expect(readAll(`${good}\n${good.replace('GET /a HTTP/1.1', asked)}`)[1]).toEqual({ kind: 'none' });
  });
});

describe('the extended form', () => {
  it('is read by its own headings, which may change within a file', () => {
    const text = [
      '#Version: 1.0',
      '#Date: 12-Jan-1996 00:00:00',
      '#Fields: time c-ip cs-method cs-uri sc-status cs(User-Agent)',
      '00:34:23 203.0.113.7 GET /foo?a=b 307 "Mozilla ""5"" (X)"',
      '#Fields: date time cs-uri-stem cs-uri-query c-ip cs-method sc-status cs(User-Agent) cs(Referer) cs-host',
      '2026-10-24 06:00:00 /a from=flyer 203.0.113.8 GET 307 Mozilla/5.0+(X11;+Linux) - see.example:8080',
    ].join('\r\n');
    expect(requestsIn(text.replaceAll('\r', ''))).toEqual([
      {
        ...empty,
        at: Date.UTC(1996, 0, 12, 0, 34, 23),
        ...{ address: '203.0.113.7', method: 'GET', target: '/foo?a=b', status: 307, ua: 'Mozilla "5" (X)' },
      },
      {
        ...empty,
        at: Date.UTC(2026, 9, 24, 6),
        ...{ address: '203.0.113.8', method: 'GET', target: '/a?from=flyer', status: 307 },
        ...{ ua: 'Mozilla/5.0 (X11; Linux)', host: 'see.example' },
      },
    ]);
  });

  it('says what its headings lack, and which line is not as they say', () => {
    expect(
      whyNot('#Fields: date time c-ip cs-method cs-uri-stem sc-status\n2026-10-24 06:00:00 ::1 GET /a 307'),
    ).toEqual(['#Fields has no cs(User-Agent).']);
    const fields = '#Fields: date time c-ip cs-method cs-uri-stem sc-status cs(User-Agent)';
    expect(whyNot(`${fields}\n2026-10-24 06:00:00 ::1 GET /a 30`)[0]).toMatch(/6 parts and #Fields 7/);
    expect(whyNot(`${fields}\n24.10.2026 06:00:00 ::1 GET /a 307 x`)[0]).toMatch(/no date and time/);
  });
});

describe('a JSON object a line', () => {
  it.each([
    // As the Caddy documentation shows an access log.
    [
      '{"level":"info","ts":1646861401.5241024,"logger":"http.log.access","msg":"handled request","request":{"remote_ip":"127.0.0.1","remote_port":"41342","client_ip":"127.0.0.1","proto":"HTTP/2.0","method":"GET","host":"localhost","uri":"/","headers":{"User-Agent":["curl/7.82.0"],"Accept":["*/*"]}},"bytes_read":0,"user_id":"","duration":0.000929675,"size":10900,"status":200}',
      {
        at: 1646861401524,
        address: '127.0.0.1',
        target: '/',
        host: 'localhost',
        ua: 'curl/7.82.0',
        status: 200,
      },
    ],
    [
      '{"time_iso8601":"2026-10-24T08:00:00+02:00","remote_addr":"::1","request":"GET /a?b=c HTTP/1.1","status":"307","http_referer":"-","http_user_agent":"x","host":"see.example"}',
      {
        at: Date.UTC(2026, 9, 24, 6),
        target: '/a?b=c',
        status: 307,
        referrer: '',
        ua: 'x',
        host: 'see.example',
      },
    ],
    [
      '{"@timestamp":"2026-10-24T06:00:00.250Z","clientip":"::1","verb":"GET","url":"/a","response":307,"agent":"x","referrer":"https://nightledge.example/"}',
      { at: Date.UTC(2026, 9, 24, 6, 0, 0, 250), referrer: 'https://nightledge.example/' },
    ],
    [
      '{"time":1792828800000,"ip":"::1","method":"GET","path":"/a","status":307,"ua":""}',
      { at: 1792828800000, ua: '' },
    ],
  ])('%s', (line, expected) => {
    expect(requestsIn(line)).toMatchObject([expected]);
  });

  it('says what cannot be read', () => {
    const good = '{"time":1792828800000,"ip":"::1","method":"GET","path":"/a","status":307,"ua":""}';
    expect(whyNot(`${good}\n${good.slice(0, 30)}`)[0]).toMatch(/may be cut off/);
    expect(whyNot(`${good}\n[1]`)[0]).toMatch(/no JSON object/);
    expect(whyNot(`${good}\n${good.replace('1792828800000', '"2026-10-24T08:00:00"')}`)[0]).toMatch(
      /with its zone/,
    );
    expect(readAll(`${good}\n{"level":"info","msg":"started"}`)[1]).toEqual({ kind: 'none' });
  });
});

describe('which form a log has', () => {
  it.each([
    ['', undefined],
    ['Oct 24 08:00:00 host nginx[1]: started', undefined],
    ['time,ip,path\n2026-10-24,::1,/a', undefined],
    ['{"a":', undefined],
    ['#Software: a server\n#Fields: date time', 'extended'],
  ])('%j: %s', (text, form) => {
    expect(logFormOf(text.split('\n'))).toBe(form);
  });
});
