import type { OwnPicture } from '#core/catalogue';
import { newId } from '../data/random.ts';

/** Longest side of a kept picture, and most letters of its base64, as the record allows. */
const [longestSide, mostLetters] = [1200, 690_000];

const base64Of = async (blob: Blob): Promise<string> => {
  const reader = new FileReader();
  reader.readAsDataURL(blob);
  await new Promise((resolve, reject) => {
    reader.onload = resolve;
    reader.onerror = reject;
  });
  return String(reader.result).replace(/^[^,]*,/, '');
};

/**
 * A picture file as a record: no longer than 1,200 pixels, as JPEG, without what a camera wrote into it.
 *
 * @throws Error with a sentence where it is no picture that can be read
 */
export const ownPicture = async (file: File): Promise<OwnPicture> => {
  const bitmap = await createImageBitmap(file).catch(() => {
    throw new Error(`${file.name} is no picture that can be read here. Take a JPEG, PNG or WebP.`);
  });
  const scale = Math.min(1, longestSide / Math.max(bitmap.width, bitmap.height));
  const [width, height] = [
    Math.max(1, Math.round(bitmap.width * scale)),
    Math.max(1, Math.round(bitmap.height * scale)),
  ];
  const canvas = new OffscreenCanvas(width, height);
  const pen = canvas.getContext('2d');
  if (!pen) throw new Error('This browser cannot draw pictures.');
  // What is see-through in a PNG becomes white, as JPEG has no such thing.
  pen.fillStyle = '#ffffff';
  pen.fillRect(0, 0, width, height);
  pen.drawImage(bitmap, 0, 0, width, height);
  bitmap.close();
  for (const quality of [0.86, 0.75, 0.6, 0.4]) {
    const data = await base64Of(await canvas.convertToBlob({ type: 'image/jpeg', quality }));
    if (data.length <= mostLetters)
      return { id: newId('pic'), name: file.name.slice(0, 200) || 'picture.jpg', width, height, data };
  }
  throw new Error(`${file.name} stays larger than half a megabyte. Cut it, and take it again.`);
};

/** A kept picture as bytes. */
export const bytesOfPicture = ({ data }: OwnPicture): Uint8Array<ArrayBuffer> =>
  Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0));
