const crcTable = Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let bit = 0; bit < 8; bit++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});
/** The checksum of a chunk (PNG, third edition, annex D). */
const crcOf = (bytes: Uint8Array): number => {
  let crc = 0xffffffff;
  for (const byte of bytes) crc = (crcTable[(crc ^ byte) & 0xff] ?? 0) ^ (crc >>> 8); // the table has every byte
  return (crc ^ 0xffffffff) >>> 0;
};

/** Where the first chunk ends: after the signature and the header (PNG, §5.2 and §11.2.1). */
const afterHeader = 33;

/**
 * A picture with how large it is printed, which a canvas does not write (PNG, §11.3.4.3, `pHYs`).
 *
 * @param png a PNG file as a browser writes it
 * @param dpi dots an inch
 */
export const withDensity = (png: Uint8Array, dpi: number): Uint8Array<ArrayBuffer> => {
  const chunk = new Uint8Array(21);
  const view = new DataView(chunk.buffer);
  const perMetre = Math.round(dpi / 0.0254);
  view.setUint32(0, 9);
  chunk.set([0x70, 0x48, 0x59, 0x73], 4);
  view.setUint32(8, perMetre);
  view.setUint32(12, perMetre);
  chunk[16] = 1;
  view.setUint32(17, crcOf(chunk.subarray(4, 17)));
  const written = new Uint8Array(png.length + chunk.length);
  written.set(png.subarray(0, afterHeader));
  written.set(chunk, afterHeader);
  written.set(png.subarray(afterHeader), afterHeader + chunk.length);
  return written;
};
