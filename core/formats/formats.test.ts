import fc from 'fast-check';
import Papa from 'papaparse';
import * as v from 'valibot';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { toJsonSchema } from '@valibot/to-json-schema';
import { describe, expect, it } from 'vitest';
import type { Link } from '#core/catalogue';
import { knownNetworks, networkRecord } from '#core/link-parts';
import { newDomain } from '#core/catalogue';
import type { AnyRecord } from './index.ts';
import {
  catalogueFileSchema,
  decodeText,
  guessColumns,
  planImport,
  readCatalogue,
  readLinkRows,
  readRedirects,
  readTable,
  writeCatalogue,
  writeLinks,
  writeTable,
} from './index.ts';

const fresh = () => ({ key: 'f'.repeat(30), pixelKey: 'g'.repeat(30) });
const raise = (): never => {
  throw new Error('Networks ship.');
};
const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const link: Link = {
  id: 'lnk_saturn',
  domain: 'dom_see',
  slug: 'saturn-kit',
  aliases: ['saturn'],
  title: 'Saturn eyepiece kit',
  destination: 'https://t.harrowmead.example/r?by=nl-4471&ref1={click}&page=',
  asText: [],
  hop: { status: 301 },
  marks: { rel: ['sponsored'], newTab: true },
  notes: '=1+1',
  createdAt: 5,
  tags: ['planets', 'gifts'],
  group: 'kits',
};

describe('a table', () => {
  // The worked examples of RFC 4180 §2.
  it.each([
    [
      'aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n',
      [
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    [
      '"aaa","b\r\nbb","ccc"\r\nzzz,yyy,xxx',
      [
        ['aaa', 'b\r\nbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    ['"aaa","b""bb","ccc"', [['aaa', 'b"bb', 'ccc']]],
  ])('%j', (text, rows) => {
    const { header, rows: read } = readTable(text);
    expect([header, ...read].slice(-rows.length)).toEqual(rows);
  });

  it.each([
    ['a;b\n1;2\n', ';'],
    ['a\tb\n1\t2\n', '\t'],
    ['a|b\n1|2\n', '|'],
  ])('%j is separated by %j', (text, delimiter) => {
    const table = readTable(text);
    expect([table.delimiter, table.header, table.rows]).toEqual([delimiter, ['a', 'b'], [['1', '2']]]);
  });

  it('knows a header from a first row, and each row’s line', () => {
    const { header, lines } = readTable(
      'kit,https://a.example/\n\n"two\nlines",https://b.example/\nmoon,https://c.example/\n',
    );
    expect(header).toEqual(['Column 1', 'Column 2']);
    expect(lines).toEqual([1, 3, 5]);
  });

  it('is safe to open in a spreadsheet, and comes back as it was', () =>
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.string(), fc.string(), fc.integer()), { minLength: 1 }), (rows) => {
        const text = writeTable(['first', 'second', 'third'], rows);
        for (const row of text.slice(1).split('\r\n')) expect(row).not.toMatch(/^[=+@]/);
        const kept = rows.filter((row) => row.some((cell) => String(cell).trim() !== ''));
        expect(readTable(text).rows).toEqual(kept.map((row) => row.map(String)));
      }),
    ));

  // Papa Parse stands for spreadsheets that part cells by other signs and heed quotes only at the start of a cell.
  it.each([',', ';', '\t', '|'])('computes nothing where %j parts the cells', (delimiter) =>
    fc.assert(
      fc.property(
        fc.array(
          fc.array(fc.string({ unit: fc.constantFrom(...`=+-@;,|'"\t\r\na1`) }), {
            minLength: 2,
            maxLength: 2,
          }),
          {
            minLength: 1,
          },
        ),
        (rows) => {
          // No table of ours begins with an amount: a reader that does not part at commas would take the row for one.
          fc.pre(!rows.some(([first = '']) => /^-\d/.test(first)));
          const text = writeTable(['first', 'second'], rows).slice(1);
          for (const row of Papa.parse<string[]>(text, { delimiter }).data)
            for (const cell of row) if (!/^-?\d+(\.\d+)?$/.test(cell)) expect(cell).not.toMatch(/^[=+\-@]/);
          const kept = rows.filter((row) => row.some((cell) => cell.trim() !== ''));
          // Without a row that tells them apart, a header is guessed; what was written is what counts here.
          fc.pre(kept.length === rows.length);
          expect(readTable(`\uFEFF${text}`).rows.slice(-rows.length)).toEqual(rows);
        },
      ),
    ),
  );

  it('keeps a negative amount a number, written as text or not', () => {
    const text = writeTable(
      ['amount', 'note'],
      [
        ['-12.34', '-x'],
        [-5, '+49'],
      ],
    );
    expect(text).toBe("\uFEFFamount,note\r\n-12.34,'-x\r\n-5,'+49\r\n");
  });

  it.each<[number[], string, string]>([
    [[0xef, 0xbb, 0xbf, 0xc3, 0xa4], 'ä', 'utf-8'],
    [[0xff, 0xfe, 0xe4, 0x00], 'ä', 'utf-16le'],
    [[0xfe, 0xff, 0x00, 0xe4], 'ä', 'utf-16be'],
    [[0xe4, 0x80], 'ä€', 'windows-1252'],
  ])('%j is %s in %s', (bytes, text, encoding) =>
    expect(decodeText(Uint8Array.from(bytes))).toEqual({ text, encoding }),
  );
});

describe('links from a table', () => {
  it('are found by the names of their columns, and by what stands in them', () => {
    expect(
      guessColumns(
        readTable('Name,Short URL,Target URL,Category,Redirect type\na,b,https://c.example/,d,301'),
      ),
    ).toEqual(['title', 'slug', 'destination', 'group', 'redirect type']);
    expect(guessColumns(readTable('moon,https://a.example/\nstar-map,https://b.example/\n'))).toEqual([
      'slug',
      'destination',
    ]);
  });

  it('are good, or say line by line what is wrong', () => {
    const table = readTable(
      'slug,url,type\nMoon,https://a.example/?x=,301\nbad slug,https://b.example/,\nx,ftp://c.example/,\n/go/star-map/,https://d.example/,temporary\n',
    );
    const { good, bad } = readLinkRows(table, guessColumns(table));
    expect(
      good.map((row) => [row.line, row.values.slug, row.values.destination, row.values.hop.status]),
    ).toEqual([[2, 'moon', 'https://a.example/?x=', 301]]);
    expect(bad.map((row) => [row.line, row.problems[0]?.message])).toEqual([
      [3, 'A slug cannot hold spaces. Use - between words.'],
      [4, '“ftp://c.example/” is no http or https address.'],
      [5, '“temporary” is no redirect type; 301, 302, 307 and 308 are.'],
    ]);
  });

  it.each([
    ['skip', 1, 0, 1],
    ['rename', 2, 0, 0],
    ['replace', 1, 1, 0],
  ] as const)('whose slug is taken: %s', (whenTaken, made, replaced, skipped) => {
    const table = readTable('slug,url\nsaturn,https://a.example/\nmoon,https://b.example/\n');
    const { good } = readLinkRows(table, guessColumns(table));
    let n = 0;
    const plan = planImport(good, domain, [domain], [link], whenTaken, () => `lnk_n${(n += 1)}`, 7);
    expect([plan.made.length, plan.replaced.length, plan.skipped.length]).toEqual([made, replaced, skipped]);
    expect(plan.renamed).toEqual(whenTaken === 'rename' ? [{ from: 'saturn', to: 'saturn-2' }] : []);
    if (whenTaken === 'replace')
      expect(plan.replaced[0]?.after).toMatchObject({
        slug: 'saturn-kit',
        destination: 'https://a.example/',
      });
  });

  it('written as CSV come back as they were', () => {
    const table = readTable(writeLinks([link], [domain]));
    const { good, bad } = readLinkRows(table, guessColumns(table));
    expect(bad).toEqual([]);
    const { title, slug, destination, notes, hop, marks, tags, group } = link;
    expect(good[0]?.values).toEqual({ title, slug, destination, notes, hop, marks, tags, group });
  });
});

describe('a table whose first column is a short address', () => {
  const shop = (n: number) => `https://shop-${n % 3}.example/item/${n}?x=1`;
  it.each([
    ['go/slug', (n: number) => `go/kit-${n}`],
    ['the whole address', (n: number) => `https://see.nightledge.example/go/kit-${n}`],
    ['the address without its scheme', (n: number) => `see.nightledge.example/go/kit-${n}`],
  ])('as %s is read as slug and destination', (_, short) => {
    const table = readTable(
      ['a,b', ...Array.from({ length: 6 }, (_u, n) => `${short(n)},${shop(n)}`)].join('\n'),
    );
    const columns = guessColumns(table);
    expect(columns).toEqual(['slug', 'destination']);
    const { good: rows, bad } = readLinkRows(table, columns);
    expect(bad).toEqual([]);
    const planned = (prefix: string) =>
      planImport(rows, { ...domain, prefix }, [], [], 'skip', () => 'lnk_new', 0).made.map(
        ({ slug, group, destination }) => [slug, group, destination],
      )[2];
    // On a domain with the prefix go/ it is the prefix, else a group.
    expect(planned('go/')).toEqual(['kit-2', undefined, shop(2)]);
    expect(planned('')).toEqual(['kit-2', 'go', shop(2)]);
  });
});

describe('redirects made by hand', () => {
  it.each<[string, string, string, [string, string, number][], number]>([
    [
      'Apache',
      '.htaccess',
      '# old\nRedirect 301 /kit https://a.example/?x=1\nRedirect permanent /moon "https://b.example/"\nRewriteEngine on\nRewriteRule ^star-map/?$ https://c.example/ [L,R=302]\nRewriteRule ^(.*)$ https://d.example/$1 [R]\nRewriteRule ^x$ /local [L]\n',
      [
        ['kit', 'https://a.example/?x=1', 301],
        ['moon', 'https://b.example/', 301],
        ['star-map', 'https://c.example/', 302],
      ],
      1,
    ],
    [
      'nginx',
      'site.conf',
      'map $uri $to {\n  /kit https://a.example/;\n  ~^/re(.*) https://x.example/;\n}\nrewrite ^/moon$ https://b.example/ permanent;\nlocation = /star {\n  return 307 https://c.example/;\n}\n',
      [
        ['kit', 'https://a.example/', 302],
        ['moon', 'https://b.example/', 301],
        ['star', 'https://c.example/', 307],
      ],
      1,
    ],
    [
      'Caddy',
      'Caddyfile',
      'see.example {\n  redir /kit https://a.example/ permanent\n  redir /moon https://b.example/\n  redir /x* https://c.example/\n}\n',
      [
        ['kit', 'https://a.example/', 301],
        ['moon', 'https://b.example/', 302],
      ],
      1,
    ],
    [
      '_redirects',
      '_redirects',
      '/kit https://a.example/ 302\n/moon https://b.example/\n/news/* https://c.example/:splat 301\n',
      [
        ['kit', 'https://a.example/', 302],
        ['moon', 'https://b.example/', 301],
      ],
      1,
    ],
    [
      'PHP',
      'go/kit.php',
      '<?php\nheader("Location: https://a.example/?a=1&b=", true, 301);\nexit;',
      [['kit', 'https://a.example/?a=1&b=', 301]],
      0,
    ],
    ['PHP', 'x.php', '<?php header("Location: " . $to);', [], 1],
  ])('in the form of %s, file %s', (format, name, text, redirects, unread) => {
    const read = readRedirects(text, name);
    expect(read?.format).toBe(format);
    expect(read?.redirects.map((r) => [r.path, r.to, r.status])).toEqual(redirects);
    expect(read?.unread).toHaveLength(unread);
  });
  /** What is read, and the line and reason of what is not. */
  const told = (text: string, name: string) => {
    const read = readRedirects(text, name);
    return {
      read: read?.redirects.map(({ line, path, to, status }) => [line, path, to, status]),
      unread: read?.unread.map(({ line, why }) => [line, why.split(/[:,;]/)[0]]),
    };
  };
  it('of nginx are read in their blocks, and each that depends on more is named', () =>
    expect(
      told(
        `server {
  listen 80;
  # location = /old { return 301 https://old.example/; }
  location = /kit { return 301 https://a.example/?x=1#top; }
  location /moon {
    add_header X-Robots-Tag noindex;
    return 302 "https://b.example/";
  }
  location ~ ^/star-map/?$ { return 307 https://c.example/;}
  location ~ ^/re/(.*)$ { return 301 https://d.example/$1; }
  location @gone { return 302 https://e.example/; }
  if ($request_uri = /exact) { return 301 https://f.example/; }
  if ($http_user_agent ~ bot) { return 301 https://g.example/; }
  location / { return 301 https://h.example$request_uri; }
  error_page 404 =301 https://i.example/;
  location = /page { proxy_pass https://j.example; }
}
map $uri $to {
  default https://k.example/;
  /lamp https://l.example/;
}
`,
        'site.conf',
      ),
    ).toEqual({
      read: [
        [4, 'kit', 'https://a.example/?x=1#top', 301],
        [7, 'moon', 'https://b.example/', 302],
        [9, 'star-map', 'https://c.example/', 307],
        [12, 'exact', 'https://f.example/', 301],
        [20, 'lamp', 'https://l.example/', 302],
      ],
      unread: [
        [10, 'Its path is an expression'],
        [11, 'It stands in a named location'],
        [13, 'It holds only under a condition'],
        [14, 'It sends on whatever is asked for'],
        [15, 'It sends on what is not found'],
        [19, 'It sends on whatever is asked for'],
      ],
    }));

  it('of Caddy are read in handle blocks and by matchers, and none is passed over', () =>
    expect(
      told(
        `see.nightledge.example {
  redir /kit https://a.example/ permanent
  handle /moon {
    redir https://b.example/ 302
  }
  @old path /one /two
  redir @old https://c.example/
  @phones header User-Agent *Mobile*
  redir @phones https://d.example/
  @both {
    path /three
    method GET
  }
  redir @both https://e.example/
  redir /all/* https://f.example/
  redir https://g.example{uri}
}
`,
        'Caddyfile',
      ),
    ).toEqual({
      read: [
        [2, 'kit', 'https://a.example/', 301],
        [4, 'moon', 'https://b.example/', 302],
        [7, 'one', 'https://c.example/', 302],
        [7, 'two', 'https://c.example/', 302],
      ],
      unread: [
        [9, 'It holds only under a condition'],
        [14, 'It holds only under a condition'],
        [15, 'Its path is an expression'],
        [16, 'It sends on whatever is asked for'],
      ],
    }));

  it('of Apache are read with the conditions and sections around them', () =>
    expect(
      told(
        `<IfModule mod_rewrite.c>
RewriteEngine On
RewriteCond %{HTTP_USER_AGENT} Mobile
RewriteRule ^phone$ https://a.example/ [R=302,L]
RewriteRule ^kit$ https://b.example/ [L,R=301]
</IfModule>
<Location "/moon">
  Redirect 307 https://c.example/
</Location>
<If "%{QUERY_STRING} =~ /x/">
  Redirect /when https://d.example/
</If>
Redirect /long \\
  https://e.example/
Redirect gone /gone
RewriteRule ^up$ %{REQUEST_SCHEME}://f.example/ [R]
`,
        '.htaccess',
      ),
    ).toEqual({
      read: [
        [5, 'kit', 'https://b.example/', 301],
        [8, 'moon', 'https://c.example/', 307],
        [13, 'long', 'https://e.example/', 302],
      ],
      unread: [
        [4, 'It holds only under a condition'],
        [11, 'It holds only under a condition'],
        [15, 'It does not lead to an http or https address.'],
        [16, 'It does not lead to an http or https address.'],
      ],
    }));

  it.each<[string, [number, string, string, number][], number]>([
    [
      '<?php\n$url = \'https://a.example/?x=1\';\nheader("Location: $url", true, 301);',
      [[2, 'kit', 'https://a.example/?x=1', 301]],
      0,
    ],
    [
      "<?php\ndefine('TO', 'https://a.example/');\nheader('Location: ' . TO);",
      [[2, 'kit', 'https://a.example/', 302]],
      0,
    ],
    [
      "<?php\n$links = array(\n  'moon' => 'https://a.example/', // old: 'x' => 'https://x.example/'\n  \"star\" => \"https://b.example/\",\n);\nheader('Location: ' . $links[$_GET['to']], true, 307);",
      [
        [3, 'moon', 'https://a.example/', 307],
        [4, 'star', 'https://b.example/', 307],
      ],
      0,
    ],
    [
      "<?php\n$to = 'https://a.example/';\nif (rand()) $to = 'https://b.example/';\nheader('Location: ' . $to);",
      [],
      1,
    ],
    [
      "<?php // header('Location: https://x.example/');\nheader('Location: https://a.example/');",
      [[2, 'kit', 'https://a.example/', 302]],
      0,
    ],
    ['<?php header("Location: https://a.example/$id");', [], 1],
    ['<?php echo 1;', [], 1],
  ])('of PHP are read from variables, constants and arrays, or named: %s', (text, read, unread) => {
    const found = told(text, 'go/kit.php');
    expect(found.read).toEqual(read);
    expect(found.unread).toHaveLength(unread);
  });

  it('are not seen in other texts', () =>
    expect(readRedirects('slug,url\nkit,https://a.example/\n', 'a.csv')).toBeUndefined());
});

describe('a catalogue as JSON', () => {
  const records: AnyRecord[] = [
    { kind: 'domain', value: domain },
    { kind: 'link', value: link },
    { kind: 'settings', value: { id: 'settings', currency: 'EUR' } },
  ];

  it('comes back as it was', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            slug: fc.stringMatching(/^[a-z][a-z0-9-]{0,20}[a-z0-9]$/),
            title: fc.string({ minLength: 1 }).filter((text) => text.trim() === text && text !== ''),
            notes: fc.string(),
            starred: fc.boolean(),
            weight: fc.nat(1000),
          }),
        ),
        (some) => {
          const all: AnyRecord[] = [
            { kind: 'domain', value: domain },
            ...some.map((more, i): AnyRecord => ({
              kind: 'link',
              value: { ...link, ...more, id: `lnk_${i}` },
            })),
          ];
          const read = readCatalogue(writeCatalogue(all, 1), fresh);
          expect(read).toEqual({ ok: true, value: { records: all, problems: [] } });
        },
      ),
    ));

  it('names what is wrong in it, and gives the rest', () => {
    const text = writeCatalogue(records, 1).replace('"saturn-kit"', '"saturn kit"');
    const read = readCatalogue(text, fresh);
    expect(read.ok && read.value.records.map((r) => r.kind)).toEqual(['domain', 'settings']);
    expect(read.ok && read.value.problems[0]?.path).toBe('link 1, slug');
    expect(readCatalogue('{"format":"other"}', fresh).ok).toBe(false);
    expect(readCatalogue('nothing', fresh).ok).toBe(false);
  });

  it('is handed on without a key or a secret, says so, and comes back with those there are', () => {
    const secrets = {
      key: 'k'.repeat(30),
      pixelKey: 'p'.repeat(30),
      previousKey: { key: 'b'.repeat(30), until: 9 },
      signature: { parameter: 'sig', secret: 'between us' },
    };
    const network = networkRecord(knownNetworks[0] ?? raise(), 'net_a', secrets);
    const all: AnyRecord[] = [{ kind: 'network', value: network }];
    const text = writeCatalogue(all, 1, 'left out');
    expect(text).toContain('"secrets": "left out"');
    for (const secret of ['kkkk', 'pppp', 'bbbb', 'between us']) expect(text).not.toContain(secret);
    expect(v.safeParse(catalogueFileSchema, JSON.parse(text)).success).toBe(true);
    expect(readCatalogue(text, () => secrets)).toMatchObject({ ok: true, value: { records: all } });
    expect(writeCatalogue(all, 1)).toContain('"secrets": "included"');
  });

  it('has a published schema that is the one in use', () => {
    const path = new URL('../../docs/formats/catalogue.schema.json', import.meta.url);
    const schema = toJsonSchema(catalogueFileSchema, { errorMode: 'ignore' });
    const text = `${JSON.stringify(schema, undefined, 2)}\n`;
    // UPDATE=1 writes it anew after a change of the schemas.
    if (process.env['UPDATE'] === '1' || !existsSync(path)) writeFileSync(path, text);
    expect(JSON.parse(readFileSync(path, 'utf8'))).toEqual(JSON.parse(text));
  });
});
