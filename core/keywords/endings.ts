/** Languages whose regular endings are known. */
export const inflectedLanguages = ['en', 'de', 'fr', 'es', 'it', 'nl', 'pt'] as const;
export type InflectedLanguage = (typeof inflectedLanguages)[number];

/**
 * Regular endings that plurals and cases add to a noun, as grammars of the languages give them (common practice). Forms that change
 * the word itself (`mouse`, `mice`; `Baum`, `Bäume`) are keywords of their own.
 */
const endings: Readonly<Record<InflectedLanguage, readonly string[]>> = {
  en: ['s', 'es'],
  de: ['e', 'en', 'er', 'ern', 'n', 's', 'es', 'se', 'nen'],
  fr: ['s', 'x', 'e', 'es'],
  es: ['s', 'es'],
  it: [],
  nl: ['s', 'en', 'n', 'e'],
  pt: ['s', 'es'],
};
/** Endings that take the place of others. */
const changed: Readonly<Record<InflectedLanguage, readonly (readonly [from: string, to: string])[]>> = {
  en: [['y', 'ies']],
  de: [],
  fr: [['al', 'aux']],
  es: [['z', 'ces']],
  it: [
    ['o', 'i'],
    ['a', 'e'],
    ['e', 'i'],
  ],
  nl: [],
  pt: [
    ['ão', 'ões'],
    ['m', 'ns'],
    ['l', 'is'],
  ],
};

/** The language whose endings hold for a tag such as `de-AT`; English where none is known. */
export const inflectedLanguage = (tag: string): InflectedLanguage => {
  const short = tag.toLowerCase().split('-')[0];
  return inflectedLanguages.find((language) => language === short) ?? 'en';
};

/** The regular forms of a word in lower case, without itself. Words under three letters have none. */
export const formsOf = (word: string, language: InflectedLanguage): string[] =>
  word.length < 3
    ? []
    : [
        ...endings[language].map((ending) => word + ending),
        ...changed[language].flatMap(([from, to]) =>
          word.endsWith(from) ? [word.slice(0, -from.length) + to] : [],
        ),
      ];
