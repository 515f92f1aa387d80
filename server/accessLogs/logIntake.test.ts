import fc from 'fast-check';
import { expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import type { LogReport } from '#core/visits';
import { VisitColumns } from '#core/visits';
import { LinkTable } from '../feed/index.ts';
import { LogIntake } from './logIntake.ts';

const now = Date.UTC(2026, 9, 24, 12);
const table = new LinkTable();
const domain = newDomain('dom_see', 'see.nightledge.localhost', 'UTC');
table.put({ kind: 'domain', record: domain.id, version: 1, value: { ...domain } });
const link = {
  ...{ id: 'lnk_kit', domain: domain.id, slug: 'saturn-kit', aliases: ['saturn', 'go/kit'], title: 'Kit' },
  ...{ destination: 'https://shop.example/', asText: [], hop: {}, marks: {}, notes: '', createdAt: 0 },
};
table.put({ kind: 'link', record: link.id, version: 2, value: link });

const intakeOf = (more: { rolledUpBefore?: number; severalFiles?: boolean } = {}) =>
  new LogIntake({
    ...{
      table,
      columns: new VisitColumns(),
      rolledUpBefore: 0,
      countryOf: () => 'DE',
      isHosting: () => undefined,
      testToken: 'abc',
    },
    ...{ host: '', severalFiles: false, now: () => now, ...more },
  });
interface Line {
  readonly target: string;
  readonly method: string;
  readonly second: number;
  readonly ua: string;
}
const at = ({ second }: Line): string => new Date(now - 3_600_000 + second * 1000).toISOString().slice(0, 19);
const combined = (line: Line): string =>
  `192.0.2.1 - - [24/Oct/2026:${at(line).slice(11)} +0000] "${line.method} ${line.target} HTTP/1.1" 302 0 "-" "${line.ua}"`;
const json = (line: Line): string =>
  JSON.stringify({
    ...{ time: `${at(line)}Z`, remote_addr: '192.0.2.1', request_method: line.method, status: 302 },
    ...{ request_uri: line.target, http_user_agent: line.ua },
  });
const lines = fc.array(
  fc.record({
    target: fc.constantFrom(
      ...[
        '/',
        '/saturn-kit',
        '/Saturn-Kit/',
        '/saturn~flyer',
        '/saturn~flyer/?a=/saturn',
        '/%73aturn',
        '/go/kit?x=1',
      ],
      ...[
        '/go',
        '/go/kit/',
        '//saturn',
        '/saturn//',
        '/saturn-kits',
        '/sat%ZZurn',
        '/saturn?test=abc',
        '/a/b.jpg?c#d',
      ],
      ...[
        '/saturn?second-page=x',
        'http://see.nightledge.localhost/saturn',
        '*',
        '/s~t/u',
        '/Über',
        '/x?] "GET /saturn ',
      ],
    ),
    method: fc.constantFrom('GET', 'GET', 'GET', 'HEAD', 'POST', 'OPTIONS'),
    second: fc.integer({ min: 0, max: 30 }),
    ua: fc.constantFrom('Mozilla/5.0 (X11)', 'curl/8', 'a ] "GET /saturn HTTP/1.1'),
  }),
  { minLength: 1, maxLength: 30 },
);
/** What a reading came to, less how the file is written. */
const read = (text: string, intake = intakeOf()): Omit<LogReport, 'files'> & { made: string[] } => {
  intake.beginFile('a.log');
  const made = [...intake.take(text), ...intake.endFile()];
  const { files: _, ...report } = intake.report;
  return { ...report, made: made.map((one) => one.replace(/"visitor":"[^"]*",/, '')) };
};

it('the same requests come to the same, in whatever form they are written', () =>
  fc.assert(
    fc.property(lines, (all) => {
      // A target with a space is no request in a combined log.
      const whole = all.filter(({ target }) => !target.includes(' '));
      fc.pre(whole.length > 0);
      const plain = whole.map((line) => ({ ...line, ua: line.ua.replaceAll('"', "'") }));
      expect(read(plain.map(combined).join('\n'))).toEqual(read(plain.map(json).join('\n')));
    }),
  ));

it('whatever pieces a log comes in, it is read alike, and read again all of it is known', () =>
  fc.assert(
    fc.property(lines, fc.integer({ min: 1, max: 200 }), (all, length) => {
      const text = all.map(combined).join('\r\n');
      const intake = intakeOf({ severalFiles: true });
      intake.beginFile('a.log');
      const made: string[] = [];
      for (let i = 0; i < text.length; i += length) made.push(...intake.take(text.slice(i, i + length)));
      made.push(...intake.endFile());
      const whole = read(text);
      expect(made.map((one) => one.replace(/"visitor":"[^"]*",/, ''))).toEqual(whole.made);
      expect(intake.report.fresh.count).toBe(made.length);
      const clicks = made.map((one) => /"click":"(\w{26})"/.exec(one)?.[1]);
      expect(new Set(clicks).size).toBe(made.length);
      const counted =
        whole.fresh.count +
        whole.known +
        whole.noLink.count +
        whole.none +
        whole.unread.count +
        whole.rolledUp;
      expect(counted).toBe(whole.lines);
      const again = read(text, intake);
      expect([again.made, again.known]).toEqual([[], made.length]);
    }),
  ));

it('of a time that is daily counts by now nothing is taken', () => {
  const line = { target: '/saturn', method: 'GET', second: 0, ua: 'x' };
  const report = read(combined(line), intakeOf({ rolledUpBefore: now }));
  expect([report.fresh.count, report.rolledUp]).toEqual([0, 1]);
});
