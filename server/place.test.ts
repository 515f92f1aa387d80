import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, statSync, writeFileSync, chmodSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import { networkRecord } from '#core/link-parts';
import { writeCatalogue } from '#core/formats';
import { freshFolder } from './testing/process.ts';

const folder = freshFolder();
const catalogue = join(folder, 'catalogue.json');
const site = join(folder, 'site');
const keys = { key: 'a'.repeat(24), pixelKey: 'b'.repeat(24) };
const run = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['dist/server/place.js', ...args], {
    encoding: 'utf8',
  });
  return { status, stdout, stderr };
};

beforeAll(() => {
  const link = {
    id: 'lnk_kit',
    domain: 'dom_see',
    slug: 'saturn-kit',
    aliases: [],
    title: 'Kit',
    asText: [],
    hop: {},
    marks: {},
    notes: '',
    createdAt: 1,
    destination:
      'https://t.harrowmead.example/r?by=nl-4471&deal=2093&page=https%3A%2F%2Fpolehouse.example%2Fkits%2Fsaturn',
    network: 'net_harrowmead',
    program: 'prg_2093',
    keywords: [{ text: 'eyepiece kit', forms: true }],
  };
  writeFileSync(
    catalogue,
    writeCatalogue(
      [
        { kind: 'domain', value: newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin') },
        { kind: 'network', value: networkRecord('Harrowmead', 'net_harrowmead', keys) },
        {
          kind: 'program',
          value: {
            id: 'prg_2093',
            network: 'net_harrowmead',
            name: 'Polehouse Optics',
            code: '2093',
            hosts: ['polehouse.example'],
            state: 'joined',
          },
        },
        { kind: 'link', value: link },
      ],
      1,
      'left out',
    ),
  );
  mkdirSync(join(site, 'posts'), { recursive: true });
  mkdirSync(join(site, 'node_modules'));
  writeFileSync(
    join(site, 'posts', '2026-11-01-rings.md'),
    '# Rings\r\n\r\nThe [kit](https://polehouse.example/kits/saturn) has eyepieces.\r\n',
  );
  writeFileSync(join(site, 'node_modules', 'readme.md'), 'eyepiece kit');
  writeFileSync(join(site, 'plain.html'), '<p>Nothing to sell.');
  writeFileSync(join(site, 'style.css'), 'eyepiece kit');
});

describe('npm run place', () => {
  it('tells what it found, changes nothing, and ends with 1; a page without finds ends with 0', () => {
    const path = join(site, 'posts', '2026-11-01-rings.md');
    const before = readFileSync(path);
    const { status, stdout } = run(site, '--catalogue', catalogue);
    expect(stdout).toBe(
      `${join(site, 'plain.html')}: nothing to do\n` +
        `${path}: 2 found\n` +
        '  line 3  disclosure  Some links on this page pay us if you buy. It costs you nothing.\n' +
        '  line 3  shop → saturn-kit  https://polehouse.example/kits/saturn\n',
    );
    expect(status).toBe(1);
    expect(readFileSync(path).equals(before)).toBe(true);
    expect(run(join(site, 'plain.html'), '--catalogue', catalogue).status).toBe(0);
  });

  it('writes what it found, keeps line ends and rights, and finds nothing then', () => {
    const path = join(site, 'written.md');
    writeFileSync(path, '# Rings\r\n\r\nThe [kit](https://polehouse.example/kits/saturn).\r\n');
    chmodSync(path, 0o640);
    const { status, stdout } = run(path, '--catalogue', catalogue, '--write', '--json', '--source', 'guide');
    expect(status).toBe(0);
    expect(JSON.parse(stdout)).toMatchObject([
      {
        file: path,
        written: true,
        left: [],
        articles: [
          {
            title: 'Rings',
            finds: [
              { kind: 'disclosure', changes: true },
              { kind: 'shop', link: 'saturn-kit', line: 3 },
            ],
          },
        ],
      },
    ]);
    expect(readFileSync(path, 'utf8')).toBe(
      '# Rings\r\n\r\nSome links on this page pay us if you buy. It costs you nothing.\r\n\r\nThe [kit](https://see.nightledge.example/saturn-kit~guide).\r\n',
    );
    expect(statSync(path).mode & 0o777).toBe(0o640);
    expect(run(path, '--catalogue', catalogue, '--write').status).toBe(0);
  });

  it('ends with 2 where a file cannot be read, and does the others all the same', () => {
    const picture = join(folder, 'picture.html');
    writeFileSync(picture, Buffer.from([0x89, 0x50, 0x4e, 0x47, 0, 0]));
    const { status, stdout } = run(
      picture,
      join(folder, 'none.md'),
      join(site, 'plain.html'),
      '--catalogue',
      catalogue,
    );
    expect(status).toBe(2);
    expect(stdout.split('\n')).toEqual([
      `${picture}: It is a picture, not an article of HTML, Markdown or an RSS export.`,
      `${join(folder, 'none.md')}: There is no such file or folder.`,
      `${join(site, 'plain.html')}: nothing to do`,
      '',
    ]);
  });

  it('says what is asked for', () => {
    expect(run()).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/^fernhop: Give the files, or a folder/),
    });
    expect(run('a.md', '--writ')).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/Usage: npm run place/),
    });
    expect(run('a.md', '--data', folder).stderr).toMatch(/cannot be read|no data folder|--data/i);
  });
});
