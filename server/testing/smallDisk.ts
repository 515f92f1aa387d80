import { execFileSync } from 'node:child_process';
import { freshFolder } from './process.ts';

/** A folder on a disk of its own that is soon full, for tests. */
export interface SmallDisk {
  readonly folder: string;
  /** How a server has to be started on it. */
  readonly command: readonly string[];
  /** True where the disk can be emptied again. */
  readonly canRecover: boolean;
  close(): void;
}

/**
 * A small disk where root may mount one. Elsewhere the shell's limit on a file's size makes every write fail.
 *
 * @param kilobytes how much it takes
 */
export const smallDisk = (kilobytes = 512): SmallDisk => {
  const folder = freshFolder();
  if (process.getuid?.() !== 0)
    return {
      folder,
      command: ['bash', '-c', 'ulimit -f 64; exec "$0" "$@"', process.execPath],
      canRecover: false,
      close: () => undefined,
    };
  execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${kilobytes}k`, 'tmpfs', folder]);
  return {
    folder,
    command: [process.execPath],
    canRecover: true,
    close: () => {
      execFileSync('umount', [folder]);
    },
  };
};
