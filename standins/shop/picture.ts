import { crc32, deflateSync } from 'node:zlib';

const width = 240;
const height = 150;

const chunk = (type: string, data: Buffer): Buffer => {
  const body = Buffer.concat([Buffer.from(type), data]);
  const framed = Buffer.alloc(body.length + 8);
  framed.writeUInt32BE(data.length, 0);
  body.copy(framed, 4);
  framed.writeUInt32BE(crc32(body), body.length + 4);
  return framed;
};

/** A shop's picture of what it sells: a moon over its colour, as PNG (W3C Portable Network Graphics). */
export const pictureOf = (colour: string): Buffer => {
  const ground = Buffer.from(colour.slice(1), 'hex');
  const rows = Buffer.alloc((width * 3 + 1) * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const lit = Math.hypot(x - 120, y - 75) < 46 && Math.hypot(x - 138, y - 66) > 40;
      const pixel = lit ? Buffer.from('f4f1e8', 'hex') : ground;
      pixel.copy(rows, y * (width * 3 + 1) + 1 + x * 3);
    }
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 2], 8); // eight bits a channel, three channels
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(rows)),
    chunk('IEND', Buffer.alloc(0)),
  ]);
};
