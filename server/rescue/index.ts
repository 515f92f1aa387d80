export type { Backup } from './backup.ts';
export { makeBackup } from './backup.ts';
export { finishRestore, restoreBackup } from './restore.ts';
