// Gives a run of tests a temporary folder of its own, and removes it with all that was left in it.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export const setup = () => {
  const before = process.env['TMPDIR'];
  const folder = mkdtempSync(join(tmpdir(), 'fernhop-tests-'));
  process.env['TMPDIR'] = folder;
  return () => {
    if (before === undefined) delete process.env['TMPDIR'];
    else process.env['TMPDIR'] = before;
    rmSync(folder, { recursive: true, force: true });
  };
};
