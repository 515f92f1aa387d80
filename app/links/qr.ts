/** A QR code of an address as the address of an SVG picture. The library is loaded when the first one is drawn. */
export const qrSvg = async (address: string): Promise<string> => {
  const { toString } = await import('qrcode');
  const svg = await toString(address, { type: 'svg', errorCorrectionLevel: 'M', margin: 4 });
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
};
