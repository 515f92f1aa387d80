// What takes long: floods, kills and made-up requests against the server, then schedules of browsers that fail:
// then files of reports in drawn dialects: node scripts/soak.mjs [--schedules 100000] [--dialects 2000] [what dist/server/soak.js takes].
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { install, root } from './prepare.mjs';

const rest = process.argv.slice(2);
const at = rest.indexOf('--schedules');
const [, schedules = '100000'] = at < 0 ? [] : rest.splice(at, 2);
const from = rest.indexOf('--dialects');
const [, dialects = '2000'] = from < 0 ? [] : rest.splice(from, 2);
install();
const run = (command, args, env = {}) =>
  spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } }).status ?? 2;
const server = run(process.execPath, ['scripts/command.mjs', 'soak', ...rest]);
const browsers =
  schedules === '0'
    ? 0
    : run(
        join(root, 'node_modules/.bin/vitest'),
        ['run', '--project', 'core', 'simulation/simulation.test.ts', '--testTimeout', '86400000'],
        { SCHEDULES: schedules },
      );
const reports =
  dialects === '0'
    ? 0
    : run(
        join(root, 'node_modules/.bin/vitest'),
        ['run', '--project', 'core', 'core/conversions/dialects.test.ts'],
        { DIALECTS: dialects },
      );
process.exit(server || browsers || reports);
