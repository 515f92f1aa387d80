/** The files of an entry: itself, or all in its folder and the folders in that. */
const within = async (entry: FileSystemEntry): Promise<File[]> => {
  if (entry.isFile)
    return [
      await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)),
    ]; // just checked
  if (!entry.isDirectory) return [];
  const reader = (entry as FileSystemDirectoryEntry).createReader(); // just checked
  const found: FileSystemEntry[] = [];
  // A folder is told in pieces, until one is empty.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (some.length === 0) break;
    found.push(...some);
  }
  return (await Promise.all(found.map(within))).flat();
};

/** Every file that was dropped, those in folders too. What a drag holds can be asked for only while its event is handled. */
export const filesOf = async (data: DataTransfer | null): Promise<File[]> => {
  const entries = [...(data?.items ?? [])].flatMap((item) => item.webkitGetAsEntry() ?? []);
  const files = [...(data?.files ?? [])];
  return entries.length === 0 ? files : (await Promise.all(entries.map(within))).flat();
};
