import { clipboardText, textOfHtml } from '#core/link-parts';
import type { Transfer } from '../shell/transfer.ts';

/** Most bytes of a file that is read into the field. */
const mostBytes = 5 * 1024 * 1024;

/** What stands in a QR code of a picture; undefined where none can be read. */
const qrText = async (file: Blob): Promise<string | undefined> => {
  const [{ default: readQr }, picture] = await Promise.all([import('jsqr'), createImageBitmap(file)]);
  // A large photograph is read smaller too: a code of few thick dots is lost in its noise.
  for (const longest of [1600, 800, 400]) {
    const scale = Math.min(1, longest / Math.max(picture.width, picture.height));
    const [width, height] = [picture.width, picture.height].map((side) =>
      Math.max(1, Math.round(side * scale)),
    );
    if (width === undefined || height === undefined) continue;
    const canvas = new OffscreenCanvas(width, height);
    const drawing = canvas.getContext('2d');
    if (!drawing) return undefined;
    drawing.fillStyle = '#fff';
    drawing.fillRect(0, 0, width, height);
    drawing.drawImage(picture, 0, 0, width, height);
    const found = readQr(drawing.getImageData(0, 0, width, height).data, width, height);
    if (found && found.data !== '') return found.data;
  }
  return undefined;
};

const ofFile = async (file: File): Promise<{ text: string } | { problem: string }> => {
  if (file.size > mostBytes) return { problem: `${file.name} is larger than 5 MB: bring it in by Import.` };
  if (file.type.startsWith('image/')) {
    const text = await qrText(file).catch(() => undefined);
    return text === undefined ? { problem: `No QR code can be read in ${file.name}.` } : { text };
  }
  const bytes = new Uint8Array(await file.arrayBuffer());
  if (bytes.includes(0)) return { problem: `${file.name} is neither text nor a picture of a QR code.` };
  const text = new TextDecoder().decode(bytes);
  return { text: /\.x?html?$/i.test(file.name) || file.type === 'text/html' ? textOfHtml(text) : text };
};

/**
 * The text of what was pasted or dropped: of rich text with the addresses behind its words, of files their text, of a
 * picture what its QR code holds.
 *
 * @returns the text, and what could not be read, each as a sentence
 */
export const readTransfer = async ({
  plain,
  html,
  files,
}: Transfer): Promise<{ text: string; problems: string[] }> => {
  const given = clipboardText(plain, html);
  if (given.trim() !== '' || files.length === 0) return { text: given, problems: [] };
  const read = await Promise.all(files.map(ofFile));
  return {
    text: read.flatMap((each) => ('text' in each ? [each.text.trim()] : [])).join('\n'),
    problems: read.flatMap((each) => ('problem' in each ? [each.problem] : [])),
  };
};
