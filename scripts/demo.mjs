// Installs and builds what is missing, then starts server, stand-ins and demo data.
import { spawn } from 'node:child_process';
import { build, install, root } from './prepare.mjs';

install();
build();
const child = spawn(
  process.execPath,
  ['--max-semi-space-size=64', 'dist/server/demo.js', ...process.argv.slice(2)],
  {
    cwd: root,
    stdio: ['inherit', 'inherit', process.env.LOG === '1' ? 'inherit' : 'pipe'],
  },
);
// The server's own log is for machines; a person at the demo sees only what went wrong.
child.stderr?.setEncoding('utf8').on('data', (text) => {
  for (const line of text.split('\n')) if (line !== '' && !line.startsWith('{')) console.error(line);
});
// Ctrl+C reaches the child by itself; this process only waits for its end.
process.on('SIGINT', () => undefined);
process.on('SIGTERM', () => child.kill('SIGTERM'));
child.on('exit', (code, signal) => process.exit(code ?? (signal === 'SIGINT' ? 0 : 1)));
