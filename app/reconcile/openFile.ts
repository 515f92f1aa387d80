import type { OpenedTable } from '#core/formats';
import { openTable } from '#core/formats';

/** Opens a table a person chose, of any kind that is known. Loaded only where a file is chosen. */
export const openFile = async (file: File): Promise<OpenedTable> =>
  openTable(new Uint8Array(await file.arrayBuffer()));
