import { DecodingMode, EntityDecoder, htmlDecodeTree } from 'entities/decode';
import type { MappedText } from './ranges.ts';

/**
 * Text of HTML as it is read: character references decoded, line ends made one, NUL taken out (HTML standard, §13.2.3.5 and
 * §13.2.5.1), with the place of each letter.
 *
 * @param raw how it stands in the source
 * @param base where it stands there
 */
export const decodeReferences = (raw: string, base: number): MappedText => {
  if (!/[&\r\0]/.test(raw)) return { text: raw, base };
  let text = '';
  const at: number[] = [];
  const add = (letters: string, place: number) => {
    text += letters;
    for (let i = 0; i < letters.length; i++) at.push(base + place);
  };
  let place = 0;
  const decoder = new EntityDecoder(htmlDecodeTree, (codePoint) => {
    add(String.fromCodePoint(codePoint), place);
  });
  while (place < raw.length) {
    const letter = raw.charAt(place);
    if (letter === '&') {
      decoder.startEntity(DecodingMode.Legacy);
      let length = decoder.write(raw, place + 1);
      if (length < 0) length = decoder.end();
      if (length > 0) {
        place += length;
        continue;
      }
      add('&', place);
    } else if (letter === '\r') {
      add('\n', place);
      if (raw[place + 1] === '\n') place += 1;
    } else if (letter !== '\0') add(letter, place);
    place += 1;
  }
  at.push(base + raw.length);
  return { text, base, at };
};
