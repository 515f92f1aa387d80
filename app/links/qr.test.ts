import jsQR from 'jsqr';
import { create } from 'qrcode';
import { describe, expect, it } from 'vitest';
import { qrSvg } from './qr.ts';

describe('a QR code', () => {
  const address = 'https://see.nightledge.example/saturn-kit~flyer?test=0123456789abcdef';

  // jsqr is the reference reader.
  it('reads back as the same address', () => {
    const { modules } = create(address, { errorCorrectionLevel: 'M' });
    const [scale, margin] = [4, 4];
    const side = (modules.size + 2 * margin) * scale;
    const pixels = new Uint8ClampedArray(side * side * 4).fill(255);
    for (let y = 0; y < modules.size * scale; y++)
      for (let x = 0; x < modules.size * scale; x++)
        if (modules.get(Math.floor(y / scale), Math.floor(x / scale)) === 1)
          pixels.fill(
            0,
            ((y + margin * scale) * side + x + margin * scale) * 4,
            ((y + margin * scale) * side + x + margin * scale) * 4 + 3,
          );
    expect(jsQR(pixels, side, side)?.data).toBe(address);
  });

  it('is drawn as a picture that stands in the page by itself', async () => {
    const picture = await qrSvg(address);
    expect(picture).toMatch(/^data:image\/svg\+xml/);
    expect(decodeURIComponent(picture)).toContain('<svg');
  });
});
