import type { QrLook, QrModules } from '#core/placing';
import { darkRuns, qrFrame, withDensity } from '#core/placing';

/** How many parts of a code may be dirty and it is still read, by the letter of its level (ISO/IEC 18004). */
export const corrections = [
  { value: 'L', title: '7 % may be dirty' },
  { value: 'M', title: '15 % may be dirty' },
  { value: 'Q', title: '25 % may be dirty' },
  { value: 'H', title: '30 % may be dirty' },
] as const;
export type Correction = (typeof corrections)[number]['value'];

/** The modules of a QR code of an address. The library is loaded when the first one is drawn. */
export const modulesOf = async (address: string, correction: Correction): Promise<QrModules> => {
  const { create } = await import('qrcode');
  const { modules } = create(address, { errorCorrectionLevel: correction });
  return { size: modules.size, isDark: (row, column) => modules.get(row, column) === 1 };
};

const dpi = 300;

/**
 * A QR code as a PNG of its width at 300 dpi. Modules are whole dots, so that their edges are sharp: it is the width that was
 * asked for or a little less.
 */
export const qrPng = async (modules: QrModules, look: QrLook): Promise<Uint8Array<ArrayBuffer>> => {
  const { width, height, letters, line } = qrFrame(modules, look.caption);
  const dots = Math.max(1, Math.floor(((look.millimetres / 25.4) * dpi) / width));
  const canvas = document.createElement('canvas');
  canvas.width = width * dots;
  canvas.height = height * dots;
  const context = canvas.getContext('2d');
  if (!context) throw new Error('This browser draws no pictures.');
  context.fillStyle = look.light;
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.fillStyle = look.dark;
  for (const run of darkRuns(modules)) context.fillRect(run.x * dots, run.y * dots, run.width * dots, dots);
  context.font = `${letters * dots}px monospace`;
  context.textAlign = 'center';
  context.fillText(look.caption, canvas.width / 2, line * dots);
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('The picture is too large for this browser. Make it smaller.');
  return withDensity(new Uint8Array(await blob.arrayBuffer()), dpi);
};
