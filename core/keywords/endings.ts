/**
 * Regular endings that plurals and cases give to a noun, as grammars of the languages have them (common practice): `-s` is added,
 * `y-ies` takes the place of `y`. Forms that change the word itself (`mouse`, `mice`; `Baum`, `Bäume`) are keywords of their own.
 */
const endings = {
  en: '-s -es y-ies',
  de: '-e -en -er -ern -n -s -es -se -nen',
  fr: '-s -x -e -es al-aux',
  es: '-s -es z-ces',
  it: 'o-i a-e e-i',
  nl: '-s -en -n -e',
  pt: '-s -es ão-ões m-ns l-is',
};
/** Languages whose regular endings are known. */
export type InflectedLanguage = keyof typeof endings;

const isInflected = (language: string): language is InflectedLanguage => Object.hasOwn(endings, language);

/** The language whose endings hold for a tag such as `de-AT`; English where none is known. */
export const inflectedLanguage = (tag: string): InflectedLanguage => {
  const short = tag.slice(0, 2).toLowerCase();
  return isInflected(short) && !/^\w{3}/.test(tag) ? short : 'en';
};

/** The regular forms of a word in lower case, without itself. Words under three letters have none. */
export const formsOf = (word: string, language: InflectedLanguage): string[] =>
  word.length < 3
    ? []
    : endings[language].split(' ').flatMap((change) => {
        const [from = '', to = ''] = change.split('-');
        return word.endsWith(from) ? [word.slice(0, word.length - from.length) + to] : [];
      });
