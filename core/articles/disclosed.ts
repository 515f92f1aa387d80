import { disclosing } from '#core/keywords';
import { disclosureOf } from '#core/placing';

const plain = (text: string): string => text.toLowerCase().replace(/\s+/g, ' ').trim();

/** Every text of ours that says it for a page. */
const ours = (['short', 'usual', 'long'] as const).map((length) => plain(disclosureOf('page', length)));

/** The part of a text that says why links are there; undefined where nothing does. */
export const disclosureIn = (text: string, own: string): string | undefined => {
  const whole = plain(text);
  const known = [plain(own), ...ours].find((each) => each !== '' && whole.includes(each));
  if (known !== undefined) return known;
  const found = disclosing.exec(text);
  if (!found) return undefined;
  // The sentence it stands in.
  const ends = ['.', '!', '?', '\n'].map((end) => text.lastIndexOf(end, Math.max(0, found.index - 1)));
  const before = Math.max(...ends) + 1;
  const after = /[.!?\n]|$/.exec(text.slice(found.index + found[0].length))?.index ?? 0;
  return text.slice(before, found.index + found[0].length + after + 1).trim();
};

/** What is put before the first link: what is not said yet. Empty where all is said. */
export const disclosureToSay = (before: string, own: string, asked: readonly string[]): string => {
  const whole = plain(before);
  const missing = [...new Set(asked)].filter((each) => each !== '' && !whole.includes(plain(each)));
  const general = disclosureIn(before, own) === undefined ? own || disclosureOf('page', 'usual') : '';
  return [general, ...missing].filter((each) => each !== '').join(' ');
};
