// What takes long: floods, kills and made-up requests against the server, schedules of browsers that fail, files of reports in drawn
// dialects, and sources that are judged every evening: node scripts/soak.mjs [--schedules 100000] [--dialects 2000] [--verdicts 4000]
// [what dist/server/soak.js takes]. 0 leaves one out.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { install, root } from './prepare.mjs';

const rest = process.argv.slice(2);
/** Takes an option away from the arguments, and gives what stood behind it. */
const take = (name, usual) => {
  const at = rest.indexOf(name);
  return at < 0 ? usual : (rest.splice(at, 2)[1] ?? usual);
};
/** Tests that draw as many as a variable says. */
const draws = [
  ['SCHEDULES', take('--schedules', '100000'), 'simulation/simulation.test.ts'],
  ['DIALECTS', take('--dialects', '2000'), 'core/conversions/dialects.test.ts'],
  ['VERDICT_RUNS', take('--verdicts', '4000'), 'core/figures/verdict.test.ts'],
];
install();
const run = (command, args, env = {}) =>
  spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } }).status ?? 2;
const statuses = [
  run(process.execPath, ['scripts/command.mjs', 'soak', ...rest]),
  ...draws
    .filter(([, many]) => many !== '0')
    .map(([variable, many, test]) =>
      run(
        join(root, 'node_modules/.bin/vitest'),
        ['run', '--project', 'core', test, '--testTimeout', '86400000'],
        { [variable]: many },
      ),
    ),
];
process.exit(statuses.find((status) => status !== 0) ?? 0);
