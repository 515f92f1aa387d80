// Builds what is missing, then runs one of the programs that need no browser: node scripts/command.mjs NAME [ARGUMENT…].
import { spawn } from 'node:child_process';
import { build, install, root } from './prepare.mjs';

const [name, ...rest] = process.argv.slice(2);
install();
build(true);
spawn(process.execPath, [`dist/server/${name}.js`, ...rest], { cwd: root, stdio: 'inherit' }).on(
  'exit',
  (code) => process.exit(code ?? 2),
);
