import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** A file of the built server, found from the source as from the bundle. */
export const builtFile = (name: string): string =>
  join(dirname(fileURLToPath(import.meta.url)).replace(/(?:\/dist)?\/server$/, ''), 'dist/server', name);
