import { crc32, deflateSync } from 'node:zlib';
import jsQR from 'jsqr';
import { create } from 'qrcode';
import { describe, expect, it } from 'vitest';
import type { QrLook, QrModules } from './index.ts';
import { darkRuns, qrFrame, qrProblems, qrSvg, withDensity } from './index.ts';

const address = 'https://see.nightledge.example/saturn-kit~flyer';
const modulesOf = (text: string): QrModules => {
  const { modules } = create(text, { errorCorrectionLevel: 'M' });
  return { size: modules.size, isDark: (row, column) => modules.get(row, column) === 1 };
};
const look: QrLook = {
  millimetres: 40,
  dark: '#1f2a25',
  light: '#ffffff',
  caption: 'see.nightledge.example/saturn-kit~flyer',
};

describe('a QR code', () => {
  // jsqr is the reference reader.
  it('is read back from what is drawn of it', () => {
    const modules = modulesOf(address);
    const { width, height } = qrFrame(modules, look.caption);
    const dots = 4;
    const pixels = new Uint8ClampedArray(width * height * dots * dots * 4).fill(255);
    for (const run of darkRuns(modules))
      for (let y = run.y * dots; y < (run.y + 1) * dots; y++) {
        const start = (y * width * dots + run.x * dots) * 4;
        for (let at = start; at < start + run.width * dots * 4; at += 4) pixels.fill(0, at, at + 3);
      }
    expect(jsQR(pixels, width * dots, height * dots)?.data).toBe(address);
  });

  it('as SVG is as wide as it is printed, with its quiet zone, and escapes what stands under it', () => {
    const modules = modulesOf(address);
    const svg = qrSvg(modules, { ...look, caption: '<b>"&' });
    expect(svg).toMatch(/^<svg [^>]*width="40mm" height="[\d.]+mm"/);
    expect(svg).toContain('&lt;b&gt;&quot;&amp;');
    const runs = darkRuns(modules);
    expect(Math.min(...runs.map(({ x }) => x))).toBe(4);
    expect(Math.max(...runs.map(({ x, width }) => x + width))).toBe(modules.size + 4);
  });

  it('is not made so that it could not be read: too pale, light on dark, or too fine for print', () => {
    const modules = modulesOf(address);
    expect(qrProblems(modules, look)).toEqual([]);
    expect(qrProblems(modules, { ...look, dark: '#ffffff', light: '#000000' })[0]).toContain('lighter');
    expect(qrProblems(modules, { ...look, dark: '#999999' })[0]).toContain('contrast of 2.8 : 1');
    // 33 modules of the code and 8 of the quiet zone.
    expect(modules.size).toBe(33);
    expect(qrProblems(modules, { ...look, millimetres: 12 })).toEqual([
      'A module is 0.29 mm wide. Print it at least 17 mm wide, or make the address shorter.',
    ]);
    expect(qrProblems(modules, { ...look, millimetres: 17 })).toEqual([]);
  });
});

describe('how large a PNG is printed', () => {
  it('stands in a chunk right after its header, with the checksum of zlib', () => {
    const chunk = (name: string, data: Uint8Array) => {
      const body = Buffer.concat([Buffer.from(name), data]);
      const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
      length.writeUInt32BE(data.length);
      sum.writeUInt32BE(crc32(body));
      return Buffer.concat([length, body, sum]);
    };
    const header = Buffer.from([0, 0, 0, 1, 0, 0, 0, 1, 8, 0, 0, 0, 0]);
    const start = Buffer.concat([
      Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
      chunk('IHDR', header),
    ]);
    const rest = Buffer.concat([
      chunk('IDAT', deflateSync(Buffer.from([0, 255]))),
      chunk('IEND', Buffer.alloc(0)),
    ]);
    const density = Buffer.alloc(9);
    density.writeUInt32BE(11811, 0); // 300 dots an inch
    density.writeUInt32BE(11811, 4);
    density[8] = 1; // a metre
    expect(Buffer.from(withDensity(Buffer.concat([start, rest]), 300))).toEqual(
      Buffer.concat([start, chunk('pHYs', density), rest]),
    );
  });
});
