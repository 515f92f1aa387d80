import { execFileSync, spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { newDomain } from '#core/catalogue';
import { changeOf, fillFirst, sendChanges } from './client.ts';
import { dataFormat } from './dataDir.ts';
import { freePort, freshFolder } from './testing/process.ts';

const project = join(dirname(fileURLToPath(import.meta.url)), '..');
const guide = readFileSync(join(project, 'docs/running.md'), 'utf8');
/** The commands of the first block of the guide, in their order. */
const commands = (/```sh\n([\s\S]*?)```/.exec(guide)?.[1] ?? '').trimEnd().split('\n');
const unitNames = readdirSync(join(project, 'deploy'));
const see = 'see.nightledge.example';

/** A folder that stands for the root of an empty machine. */
const machine = freshFolder();
const at = (path: string) => join(machine, path);
const ports = { fernhop: 0, http: 0, https: 0 };
const children: ChildProcess[] = [];
/** Runs a command of the guide in the folder that stands for the machine. */
const runHere = (command: string, env: Readonly<Record<string, string>> = {}): string =>
  execFileSync('bash', ['-ec', command], {
    cwd: project,
    encoding: 'utf8',
    env: {
      PATH: `${dirname(process.execPath)}:${process.env['PATH'] ?? ''}`,
      HOME: machine,
      PORT: String(ports.fernhop),
      ...env,
    },
  });
/** A command with the paths of this machine in the place of those of an empty one. */
const placed = (command: string): string =>
  command
    .replaceAll('/opt/fernhop', project)
    // What `npm run` would run once it had looked whether anything is to be built.
    .replace(/npm run --silent ([a-z]+) --/, `${process.execPath} ${project}/dist/server/$1.js`)
    .replace(/(?<= |=)\/(etc|var\/lib)\//g, (_, folder: string) => `${machine}/${folder}/`);
/** The settings of a unit by name, as systemd would read them. */
const settingsOf = (unit: string): Map<string, string> =>
  new Map(
    readFileSync(join(project, 'deploy', unit), 'utf8')
      .split('\n')
      .flatMap((line) => {
        const [, name, value] = /^([A-Za-z]+)=(.*)$/.exec(line) ?? [];
        return name === undefined ? [] : [[name, value ?? ''] as const];
      }),
  );

beforeAll(async () => {
  ports.fernhop = await freePort();
  ports.http = await freePort();
  ports.https = ports.http + 1;
  for (const folder of ['etc/systemd/system', 'etc/caddy', 'var/lib/fernhop'])
    mkdirSync(at(folder), { recursive: true });
  writeFileSync(at('etc/passwd'), 'root:x:0:0:root:/root:/bin/bash\n');
  for (const name of ['group', 'shadow', 'gshadow']) writeFileSync(at(`etc/${name}`), '');
});
afterAll(() => children.forEach((child) => child.kill()));

describe('from an empty machine to the first live link', () => {
  it('are ten commands', () => {
    expect(commands).toHaveLength(10);
  });

  // The lists of a machine without a network name no packages.
  const hasLists = spawnSync('apt-cache', ['show', 'zip']).status === 0;
  it.runIf(hasLists)('1: names packages that Debian has', () => {
    const names = /install --yes (.*)$/.exec(commands[0] ?? '')?.[1]?.split(' ') ?? [];
    expect(names).toContain('caddy');
    for (const name of names)
      expect([name, spawnSync('apt-cache', ['show', '--no-all-versions', name]).status]).toEqual([name, 0]);
  });

  // Only root may make users.
  it.runIf(process.getuid?.() === 0)('2: makes a user of the system who cannot log in', () => {
    runHere((commands[1] ?? '').replace('useradd ', `useradd --prefix ${machine} `).replace(/2>.*/, ''));
    expect(readFileSync(at('etc/passwd'), 'utf8')).toMatch(
      /^fernhop:x:\d{1,3}:\d{1,3}::\/var\/lib\/fernhop:\/usr\/sbin\/nologin$/m,
    );
    expect(readFileSync(at('etc/group'), 'utf8')).toMatch(/^fernhop:x:\d{1,3}:$/m);
  });

  it('3 and 4: build what the tests run', () => {
    expect(commands[2]).toMatch(/^git clone https:\/\/\S+ \/opt\/fernhop$/);
    expect(commands[3]).toBe('cd /opt/fernhop && npm ci && npm run build');
    const { scripts } = JSON.parse(readFileSync(join(project, 'package.json'), 'utf8')) as {
      scripts: Record<string, string>;
    };
    expect(scripts['build']).toBeDefined();
    for (const file of ['main.js', 'backup.js', 'excerpt.js'])
      expect(existsSync(join(project, 'dist/server', file))).toBe(true);
  });

  it('5 and 6: put settings and units in their places', () => {
    runHere(placed(commands[4] ?? ''));
    expect(readFileSync(at('etc/fernhop.env'), 'utf8')).toBe(
      'APP_ORIGIN=https://desk.nightledge.example\nTRUST_PROXY=127.0.0.1\n',
    );
    runHere(placed(commands[5] ?? ''));
    expect(readdirSync(at('etc/systemd/system')).sort()).toEqual([...unitNames].sort());
  });

  it('7: starts units that systemd finds no fault with, as somebody who may do next to nothing', () => {
    expect(commands[6]).toBe('systemctl enable --now fernhop.service fernhop-backup.timer');
    const units = ['fernhop.service', 'fernhop-backup.service', 'fernhop-backup.timer'];
    expect([...unitNames].sort()).toEqual([...units].sort());
    for (const name of units) {
      const path = at(`etc/systemd/system/${name}`);
      writeFileSync(
        path,
        readFileSync(path, 'utf8')
          .replaceAll('/usr/bin/node', process.execPath)
          .replaceAll('/opt/fernhop', project),
      );
      const verified = spawnSync('systemd-analyze', ['verify', path], { encoding: 'utf8' });
      expect([
        name,
        verified.status,
        verified.stderr.split('\n').filter((line) => line.includes('fernhop')),
      ]).toEqual([name, 0, []]);
      if (!name.endsWith('.service')) continue;
      // 2.0 and less is what systemd calls OK and better; root without bounds is 9.6.
      const exposed = spawnSync(
        'systemd-analyze',
        ['security', '--offline=true', '--threshold=20', '--no-pager', path],
        { encoding: 'utf8' },
      );
      expect([name, exposed.status, exposed.stdout.split('\n').at(-2)]).toEqual([
        name,
        0,
        expect.stringMatching(/exposure level .*: [01]\.\d (?:OK|SAFE)/),
      ]);
    }
    const unit = settingsOf('fernhop.service');
    expect(unit.get('User')).toBe('fernhop');
    expect(unit.get('ProtectSystem')).toBe('strict');
    expect(unit.get('Restart')).toBe('always');
  });

  it('7: what the units run starts, and makes a backup', async () => {
    const unit = settingsOf('fernhop.service');
    const env = Object.fromEntries(
      `${readFileSync(at('etc/fernhop.env'), 'utf8')}${placed(unit.get('Environment') ?? '')}`
        .split('\n')
        .filter(Boolean)
        .map((line) => line.split(/=(.*)/).slice(0, 2) as [string, string]),
    );
    expect(env['DATA_DIR']).toBe(at('var/lib/fernhop'));
    const [program = '', ...args] = (unit.get('ExecStart') ?? '')
      .replace('/usr/bin/node', process.execPath)
      .split(' ');
    const server = spawn(program, args, {
      cwd: project,
      env: { ...env, PORT: String(ports.fernhop) },
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    children.push(server);
    await new Promise((resolve) => server.stdout.once('data', resolve));
    expect(readFileSync(at('var/lib/fernhop/format'), 'utf8')).toBe(`${dataFormat}\n`);

    const backup = settingsOf('fernhop-backup.service').get('ExecStart') ?? '';
    mkdirSync(at('var/lib/fernhop-backups'));
    // Of `$$` and `%%` systemd makes one each.
    const line = placed(backup)
      .replaceAll('$$', '$')
      .replaceAll('%%', '%')
      .replaceAll('/usr/bin/node', process.execPath);
    execFileSync('bash', ['-ec', line], { cwd: project });
    expect(readdirSync(at('var/lib/fernhop-backups'))).toEqual([
      expect.stringMatching(/^fernhop-\d{4}-\d\d-\d\d\.tar\.gz$/),
    ]);
    const after = settingsOf('fernhop-backup.service').get('ExecStartPost') ?? '';
    const old = at('var/lib/fernhop-backups/fernhop-2020-01-01.tar.gz');
    writeFileSync(old, '');
    execFileSync('touch', ['-d', '20 days ago', old]);
    const [find = '', ...rest] = placed(after).split(' ');
    execFileSync(find, rest);
    expect(readdirSync(at('var/lib/fernhop-backups'))).toHaveLength(1);
  });

  it('8 to 10: a web server in front, the key, and the first link, live by https', async () => {
    const [write = '', reload] = (commands[7] ?? '').split(' && ');
    expect(reload).toBe('systemctl restart caddy');
    runHere(placed(write));
    const made = readFileSync(at('etc/caddy/Caddyfile'), 'utf8');
    expect(made).toContain(`127.0.0.1:${ports.fernhop}`);
    writeFileSync(
      at('Caddyfile'),
      made
        .replace(
          '{\n',
          `{\n\thttp_port ${ports.http}\n\thttps_port ${ports.https}\n\tadmin off\n\tskip_install_trust\n`,
        )
        .replace('\ttls {', '\ttls internal {'),
    );
    children.push(
      spawn('caddy', ['run', '--config', at('Caddyfile'), '--adapter', 'caddyfile'], {
        env: { PATH: process.env['PATH'], HOME: machine, XDG_DATA_HOME: machine },
        stdio: 'ignore',
      }),
    );
    const root = at('caddy/pki/authorities/local/root.crt');
    await vi.waitFor(() => expect(existsSync(root)).toBe(true), { timeout: 20_000 });

    const address = runHere(placed(commands[8] ?? '')).trim();
    expect(address).toMatch(/^https:\/\/desk\.nightledge\.example\/#key=\S{20,}$/);
    // What the person does in Setup and with the paste bar.
    const place = { port: ports.fernhop, key: address.split('#key=')[1] ?? '' };
    const { link } = await fillFirst(place);
    await sendChanges(place, [
      changeOf('domain', newDomain('dom_first', see, 'UTC')),
      changeOf('link', { ...link, id: 'lnk_first', domain: 'dom_first', slug: 'kit', aliases: [] }),
    ]);
    const asked = (commands[9] ?? '').replace(
      'curl ',
      `curl --cacert ${root} --connect-to ::127.0.0.1:${ports.https} `,
    );
    await vi.waitFor(() => expect(runHere(asked)).toMatch(/^HTTP\/2 307[\s\S]*\nlocation: http:/), {
      timeout: 20_000,
    });
  });
});

describe('the guide', () => {
  it('names only commands that there are', () => {
    const { scripts } = JSON.parse(readFileSync(join(project, 'package.json'), 'utf8')) as {
      scripts: Record<string, string>;
    };
    const named = [...guide.matchAll(/npm run (?:--silent )?([a-z:]+)/g)].map(([, name]) => name ?? '');
    expect(named.length).toBeGreaterThan(6);
    for (const name of named) expect([name, scripts[name] !== undefined]).toEqual([name, true]);
  });
});
