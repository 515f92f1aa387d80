/** As much as is written to see whether there is room, in bytes. */
const tried = 65_536;

/**
 * Whether the disk beneath this browser takes anything, by a small file that is written and removed. Chromium's database must not be
 * asked that: a window that opens it while the disk is full cannot open it any more when there is room again, until the page is loaded
 * anew (seen in version 156). Where files cannot be written, as on plain http, it is taken to have room.
 */
export const hasRoom = async (): Promise<boolean> => {
  const mayWrite = 'storage' in navigator && 'getDirectory' in navigator.storage;
  const folder = mayWrite ? await navigator.storage.getDirectory().catch(() => undefined) : undefined;
  if (!folder || !('createWritable' in FileSystemFileHandle.prototype)) return true;
  const name = `room-${Math.random().toString(36).slice(2)}`;
  try {
    const file = await (await folder.getFileHandle(name, { create: true })).createWritable();
    await file.write(new Uint8Array(tried));
    await file.close();
    return true;
  } catch {
    return false;
  } finally {
    await folder.removeEntry(name).catch(() => undefined);
  }
};
