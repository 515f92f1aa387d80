// Installs and builds what is missing or out of date. Uses nothing but Node and npm.
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

const timeOf = (path) => (existsSync(path) ? statSync(path).mtimeMs : 0);

/** Runs a command with its output shown; ends this process when it fails. */
export const runOrEnd = (command, args, options = {}) => {
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (status !== 0) process.exit(status ?? 1);
};

const newest = (folder) =>
  readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile())
    .reduce((time, entry) => Math.max(time, timeOf(join(entry.parentPath, entry.name))), 0);

/** `npm ci`, only when the lock file is newer than what is installed. */
export const install = () => {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Fernhop needs Node 20.19 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
  if (timeOf(join(root, 'package-lock.json')) > timeOf(join(root, 'node_modules/.package-lock.json')))
    runOrEnd('npm', ['ci', '--no-fund', '--no-audit']);
};

/** Builds the application and the server when a source is newer than what was built. */
export const build = (quiet = false) => {
  const sources = ['core', 'page-script', 'server', 'standins', 'demo', 'app', 'bench'].map((name) =>
    newest(join(root, name)),
  );
  const files = ['package.json', 'vite.config.ts', 'vite.server.config.ts', 'vite.script.config.ts'].map(
    (name) => timeOf(join(root, name)),
  );
  const built = Math.min(
    timeOf(join(root, 'dist/app/index.html')),
    timeOf(join(root, 'dist/server/main.js')),
  );
  if (Math.max(...sources, ...files) > built)
    runOrEnd('npm', ['run', '--silent', 'build'], quiet ? { stdio: ['ignore', 'ignore', 'inherit'] } : {});
};
