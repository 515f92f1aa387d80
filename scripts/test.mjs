// Installs what is missing, then checks formatting, lint, import directions, types and unused code, and runs every test.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { build, install, root } from './prepare.mjs';

install();

/** Debian's packages that tests run, by the program that tells whether they are there. */
const packages = {
  '/usr/bin/chromium': 'chromium',
  '/usr/bin/caddy': 'caddy',
  '/usr/bin/jq': 'jq',
  '/usr/sbin/nginx': 'nginx',
  '/usr/bin/openssl': 'openssl',
  '/usr/bin/systemd-analyze': 'systemd',
};
const missing = Object.entries(packages).flatMap(([program, name]) => (existsSync(program) ? [] : [name]));
if (missing.length > 0) {
  const words = `apt-get install ${missing.join(' ')}`;
  const asRoot = process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');
  if (!asRoot) {
    console.error(`The tests need packages of Debian: ${words}`);
    process.exit(1);
  }
  const apt = (...args) =>
    spawnSync('apt-get', args, {
      stdio: 'inherit',
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    }).status;
  if (
    apt('update', '-qq') !== 0 ||
    apt('install', '-y', '-qq', '--no-install-recommends', ...missing) !== 0
  ) {
    console.error(`Packages could not be installed: ${words}`);
    process.exit(1);
  }
}

const bin = (name) => join(root, 'node_modules/.bin', name);
let passed = 0;
let failed = 0;
/** What failed, a line each, told again at the end: a long output is often seen by its end only. */
const failures = [];

const check = (what, command, args) => {
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit' });
  console.log(`${status === 0 ? 'ok  ' : 'FAIL'} ${what}`);
  if (status === 0) passed += 1;
  else {
    failed += 1;
    failures.push(what);
  }
};

check('formatting', bin('prettier'), ['--check', '--log-level', 'warn', '.']);
check('lint and import directions', bin('eslint'), ['.']);
check('types', bin('vue-tsc'), ['--noEmit']);
check('unused code', bin('knip'), []);

build();

const folder = join(root, 'node_modules/.cache/fernhop');
mkdirSync(folder, { recursive: true });
// One project after the other: the server's tests load the machine, and some tests in Chromium measure.
for (const project of ['core', 'parts', 'server', 'chromium', 'measured']) {
  const report = join(folder, `${project}.json`);
  const { status } = spawnSync(
    bin('vitest'),
    ['run', '--project', project, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`],
    { cwd: root, stdio: 'inherit' },
  );
  const {
    numPassedTests = 0,
    numFailedTests = 0,
    numTotalTests = 0,
    testResults = [],
  } = existsSync(report) ? JSON.parse(readFileSync(report, 'utf8')) : {};
  passed += numPassedTests;
  // A run that ended badly without a failed test (nothing ran, a file could not be loaded, a hook failed) failed all the same.
  failed += numFailedTests + (status !== 0 && numFailedTests === 0 ? 1 : 0) + (numTotalTests === 0 ? 1 : 0);
  for (const { name, message, assertionResults } of testResults.filter((file) => file.status === 'failed')) {
    const tests = assertionResults.filter((test) => test.status === 'failed');
    failures.push(
      ...tests.map((test) => `${project}: ${name}: ${test.fullName}`),
      ...(tests.length === 0
        ? [`${project}: ${name}: ${message || 'what stands before or after its tests failed'}`]
        : []),
    );
  }
  if (status !== 0) failures.push(`${project}: ended with ${status}`);
}

for (const failure of failures) console.log(`FAIL ${failure}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
