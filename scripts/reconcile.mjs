// Builds what is missing, then reconciles a month without a browser.
import { spawn } from 'node:child_process';
import { build, install, root } from './prepare.mjs';

install();
build(true);
spawn(process.execPath, ['dist/server/reconcile.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
}).on('exit', (code) => process.exit(code ?? 2));
