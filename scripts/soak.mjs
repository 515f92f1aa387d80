// Builds what is missing, then sends made-up requests by the hundred thousand, floods and kills a server, and tells what it bore.
import { spawn } from 'node:child_process';
import { build, install, root } from './prepare.mjs';

install();
build(true);
spawn(process.execPath, ['dist/server/soak.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
}).on('exit', (code) => process.exit(code ?? 1));
