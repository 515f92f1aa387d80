// Builds what is missing, then shows the key of the server, or renews it.
import { spawn } from 'node:child_process';
import { build, install, root } from './prepare.mjs';

install();
build(true);
spawn(process.execPath, ['dist/server/key.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
}).on('exit', (code) => process.exit(code ?? 1));
