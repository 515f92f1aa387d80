/** Hands a text, or bytes, to the person as a file. */
export const saveFile = (name: string, type: string, content: string | Uint8Array<ArrayBuffer>): void => {
  const charset = typeof content === 'string' ? ';charset=utf-8' : '';
  const url = URL.createObjectURL(new Blob([content], { type: `${type}${charset}` }));
  const anchor = document.createElement('a');
  anchor.href = url;
  anchor.download = name;
  anchor.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
};
