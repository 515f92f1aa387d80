import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import type { PasteEntry, Register } from './index.ts';
import { clipboardText, makePasteReader, pastedUnits, recognise, textOfHtml } from './index.ts';
import { linkRecord, networkOf, programRecord } from './testing/records.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const tracking = (page: string) =>
  `https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1=&ref2=&page=${encodeURIComponent(page)}`;
const kit = linkRecord({
  id: 'lnk_kit',
  domain: domain.id,
  slug: 'saturn-kit',
  destination: tracking('https://polehouse.example/kit').replace('ref1=&ref2=', 'ref1={click}&ref2={source}'),
});
const register: Register = {
  domains: [domain],
  networks: [networkOf('Harrowmead')],
  programs: [
    programRecord(),
    programRecord({
      id: 'prg_umbra',
      name: 'Umbra & Finch',
      code: '7',
      hosts: ['umbra.example'],
      state: 'declined',
    }),
  ],
  accounts: [{ id: 'acc_nl', network: 'net_a', tag: 'nl-4471', owner: 'Ines' }],
  links: [kit],
};
const read = (text: string): PasteEntry[] => pastedUnits(text).flatMap(makePasteReader(register));
/** What became of each entry: its lines, its kind, and what it is about. */
const told = (text: string) =>
  read(text).map((entry) => [
    entry.unit.from,
    entry.kind,
    entry.kind === 'not read'
      ? entry.reason
      : entry.kind === 'twice'
        ? entry.line
        : entry.kind === 'page'
          ? entry.choices[0]?.program.name
          : entry.address,
  ]);

describe('a paste of many lines', () => {
  it('is accounted for line by line, whatever the lines are', () => {
    const moon = tracking('https://polehouse.example/moon');
    const shot = tracking('https://polehouse.example/shot');
    expect(
      told(
        [
          moon,
          '',
          'https://polehouse.example/filters/red?utm_source=x',
          '<a href="https://go.farrow.example/x?a=1">',
          '  <img src="https://img.farrow.example/b.png" width="300" height="250" alt="Red torch">',
          '</a>',
          'see.nightledge.example/saturn-kit~flyer',
          tracking('https://polehouse.example/kit'),
          `Look at ${shot}, it is good.`,
          'Thursday: three torches',
          moon,
          'https://umbra.example/dob-8',
          'ftp://files.farrow.example/x',
          'ines@nightledge.example',
          'https://see.nightledge.example/gone',
          'https://',
        ].join('\n'),
      ),
    ).toEqual([
      [1, 'tracking', moon],
      [3, 'page', 'Polehouse Optics'],
      [4, 'address', 'https://go.farrow.example/x?a=1'],
      [7, 'short', 'https://see.nightledge.example/saturn-kit~flyer'],
      [8, 'exists', tracking('https://polehouse.example/kit')],
      [9, 'tracking', shot],
      [10, 'not read', 'There is no address in it.'],
      [11, 'twice', 1],
      [
        12,
        'not read',
        'A page of Umbra & Finch, whose program you have not joined: no link to it would earn. Apply there first.',
      ],
      [
        13,
        'not read',
        'An address that begins with ftp: is no page on the web; a link leads to http:// or https://.',
      ],
      [14, 'not read', 'It is a mail address.'],
      [
        15,
        'not read',
        'see.nightledge.example is a domain of yours, but no link of yours is at this address.',
      ],
      [16, 'not read', 'Its address has no host after https://.'],
    ]);
  });

  it('leaves out no line and reads none twice: property', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.string(),
            fc.webUrl({ withQueryParameters: true, withFragments: true }),
            fc.constantFrom(
              '<a href="https://a.example/x">',
              'words',
              '</a>',
              '<img src=x',
              '>',
              '<div>',
              '\t',
              '',
            ),
          ),
          { maxLength: 20 },
        ),
        (parts) => {
          const text = parts.join('\n');
          const lines = text.split(/\r\n|[\n\r\u2028\u2029]/);
          const covered = lines.map(() => 0);
          for (const { from, to } of pastedUnits(text))
            for (let line = from; line <= to; line++) covered[line - 1] = (covered[line - 1] ?? 0) + 1;
          for (const [i, line] of lines.entries()) if (line.trim() !== '') expect(covered[i]).toBe(1);
          const units = pastedUnits(text);
          const entries = read(text);
          for (const unit of units) expect(entries.some((entry) => entry.unit.from === unit.from)).toBe(true);
        },
      ),
    ));

  it('keeps the bytes of every address that stands alone: property', () =>
    fc.assert(
      fc.property(fc.webUrl({ withQueryParameters: true, withFragments: true }), (address) => {
        expect(read(address).map((entry) => entry.address)).toEqual([address]);
      }),
    ));
});

describe('an address', () => {
  it.each([
    ['https://a.example/x?y=', 'https://a.example/x?y='],
    ['<https://a.example/x>', 'https://a.example/x'],
    ['\ufeffhttps://a.example/x\u200b', 'https://a.example/x'],
    ['See https://a.example/wiki/Star_(sky).', 'https://a.example/wiki/Star_(sky)'],
    ['(https://a.example/x)', 'https://a.example/x'],
    ['**https://a.example/x**', 'https://a.example/x'],
    ['„https://a.example/x“', 'https://a.example/x'],
    ['[Star chart](https://a.example/x?a=(1) "a title")', 'https://a.example/x?a=(1)'],
    ['a.example/x?y=1', 'https://a.example/x?y=1'],
    ['//a.example/x', 'https://a.example/x'],
  ])('in %s', (line, address) => expect(read(line).map((entry) => entry.address)).toEqual([address]));

  it('that a space tore is not taken for its first half', () => {
    for (const line of [
      'https://a.example/x y/z?q=1',
      'https://a.example/x ?q=1',
      'https://a.example/x &b=2',
    ])
      expect(told(line)).toEqual([
        [1, 'not read', 'There is a space in its address: put %20 there, or mend it.'],
      ]);
    expect(read('https://a.example/x the moon filter')[0]?.address).toBe('https://a.example/x');
  });

  it.each(['page.html', 'notes.txt', 'e.g. this', 'v1.2.3', '10:30 a.m.'])('is not in %s', (line) =>
    expect(read(line).map((entry) => entry.kind)).toEqual(['not read']),
  );

  it('in the cells of a spreadsheet has the words beside it as title', () => {
    const rows = read(
      'Title\tLink\nMoon filter\thttps://a.example/m\t4.5\nhttps://a.example/t\tRed torch\t"12,00"',
    );
    expect(rows.map(({ title, address, kind }) => [title, address, kind])).toEqual([
      ['', '', 'not read'],
      ['Moon filter', 'https://a.example/m', 'address'],
      ['Red torch', 'https://a.example/t', 'address'],
    ]);
  });

  it('among several snippets of one line is read too', () =>
    expect(
      read(
        '<a href="https://a.example/1">One</a> | <a href="https://a.example/2"><img src="https://a.example/i.png" alt="Two"></a>',
      ).map(({ address, title }) => [address, title]),
    ).toEqual([
      ['https://a.example/1', 'One'],
      ['https://a.example/2', 'Two'],
    ]));
});

describe('rich text', () => {
  it('gives each link with its words, and other blocks as they are', () =>
    expect(
      textOfHtml(
        '<meta charset="utf-8"><p>Three things: <a href="https://a.example/1?x=1&amp;y=">a&nbsp;torch</a> and <a href="https://a.example/2">https://a.example/2</a></p><p>No link here.</p><script>var a</script>',
      ),
    ).toBe('a torch\thttps://a.example/1?x=1&y=\nhttps://a.example/2\nNo link here.'));

  // As spreadsheets put it on the clipboard: a table whose cells hold links (common practice).
  it('of a table keeps its rows and cells', () =>
    expect(
      textOfHtml(
        '<table><tbody><tr><td>Moon filter</td><td><a href="https://a.example/m">shop</a></td></tr><tr><td><div>Torch</div></td><td>https://a.example/t</td></tr></tbody></table>',
      ),
    ).toBe('Moon filter\tshop\thttps://a.example/m\nTorch\thttps://a.example/t'));

  it('is taken where the plain text hides the addresses, and only there', () => {
    const html = '<a href="https://a.example/1">a torch</a>';
    expect(clipboardText('a torch', html)).toBe('a torch\thttps://a.example/1');
    expect(clipboardText('a torch https://a.example/1', html)).toBe('a torch https://a.example/1');
    expect(clipboardText('plain', '')).toBe('plain');
  });

  it('never throws, however deep: property', () => {
    fc.assert(fc.property(fc.string(), (text) => void textOfHtml(`<div>${text}<td><a href=//x>`)));
    expect(textOfHtml('<div>'.repeat(5000))).toBe('');
  });
});

describe('the paste bar', () => {
  const kinds = (text: string) => recognise(text, register).map(({ kind }) => kind);
  it('says that there are several things, one of them no link', () =>
    expect(kinds('https://a.example/1\nno link\nhttps://a.example/2')).toEqual(['many', 'words']));
  it('says so of a snippet among links', () =>
    expect(kinds('https://a.example/1\n<a href="https://a.example/2">x</a>')[0]).toBe('many'));
  it('takes one cell with its title for one link', () =>
    expect(recognise('Moon filter\thttps://a.example/m', register)[0]).toMatchObject({
      kind: 'address',
      title: 'Moon filter',
    }));
  it('searches for a word with a point in it', () => expect(kinds('saturn.kit')).toEqual(['words']));
});
