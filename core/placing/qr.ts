import { escapeHtml } from '#core/hop';
import { contrast } from './look.ts';

/** The dark and light modules of a QR code, row by row; true is dark. */
export interface QrModules {
  readonly size: number;
  readonly isDark: (row: number, column: number) => boolean;
}

/** How a QR code is drawn. */
export interface QrLook {
  /** Its width with its quiet zone, in millimetres. */
  readonly millimetres: number;
  /** Colours as `#1f2a25`. */
  readonly dark: string;
  readonly light: string;
  /** What stands under it; empty for nothing. */
  readonly caption: string;
}

/** Light modules that have to stand around a QR code (ISO/IEC 18004, quiet zone). */
export const quietZone = 4;
/** What readers of QR codes need between dark and light; common practice, as for words. */
const leastContrast = 4;
/** Modules narrower than this are not read from a print at arm's length; common practice. */
const leastModule = 0.4;
/** Height of the letters under it in modules, and of the strip they stand in. */
const letter = 2.4;
const strip = 4;

/** What would keep a QR code from being read, as sentences. */
export const qrProblems = ({ size }: QrModules, look: QrLook): string[] => {
  const module = look.millimetres / (size + 2 * quietZone);
  const ratio = contrast(look.dark, look.light);
  return [
    ...(contrast(look.dark, '#000000') > contrast(look.light, '#000000')
      ? ['The dark colour is lighter than the light one: many readers do not read that.']
      : ratio < leastContrast
        ? [
            `The two colours have a contrast of ${(Math.floor(ratio * 10) / 10).toFixed(1)} : 1. It is read from ${leastContrast} on.`,
          ]
        : []),
    ...(module < leastModule
      ? [
          `A module is ${module.toFixed(2)} mm wide. Print it at least ${Math.ceil((size + 2 * quietZone) * leastModule)} mm wide, or make the address shorter.`,
        ]
      : []),
  ];
};

/** The rectangles of its dark modules, each as long as its row goes on: columns and rows from the corner of the quiet zone. */
export const darkRuns = ({ size, isDark }: QrModules): { x: number; y: number; width: number }[] => {
  const runs: { x: number; y: number; width: number }[] = [];
  for (let row = 0; row < size; row++)
    for (let column = 0; column < size; column++) {
      if (!isDark(row, column)) continue;
      let width = 1;
      while (column + width < size && isDark(row, column + width)) width++;
      runs.push({ x: column + quietZone, y: row + quietZone, width });
      column += width;
    }
  return runs;
};

/** Width and height of the drawing in modules, and where the letters stand: their size, and their line from the top. */
export const qrFrame = ({ size }: QrModules, caption: string) => {
  const width = size + 2 * quietZone;
  // A letter of a typewriter's face is about 0.6 as wide as it is high.
  const fitting = caption === '' ? 0 : Math.min(letter, (width - 2) / (caption.length * 0.6));
  return { width, height: width + (caption === '' ? 0 : strip), letters: fitting, line: width + 1.4 };
};

/** A QR code as SVG, as wide as was asked for, with what stands under it. */
export const qrSvg = (modules: QrModules, look: QrLook): string => {
  const { width, height, letters, line } = qrFrame(modules, look.caption);
  const path = darkRuns(modules)
    .map((run) => `M${run.x} ${run.y}h${run.width}v1h-${run.width}z`)
    .join('');
  const inMillimetres = (units: number) => `${Number(((units * look.millimetres) / width).toFixed(3))}mm`;
  const caption =
    look.caption === ''
      ? ''
      : `<text x="${width / 2}" y="${line}" font-family="monospace" font-size="${Number(letters.toFixed(3))}" text-anchor="middle" fill="${look.dark}">${escapeHtml(look.caption)}</text>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${inMillimetres(width)}" height="${inMillimetres(height)}" viewBox="0 0 ${width} ${height}"><rect width="${width}" height="${height}" fill="${look.light}"/><path d="${path}" fill="${look.dark}" shape-rendering="crispEdges"/>${caption}</svg>`;
};
