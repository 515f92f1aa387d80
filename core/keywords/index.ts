export { blockElements, closedElements, headingElements, partingElements } from './elements.ts';
export type { InflectedLanguage } from './endings.ts';
export { inflectedLanguage } from './endings.ts';
export type { Keyword, KeywordFinder } from './finder.ts';
export { makeKeywordFinder } from './finder.ts';
export type { KeywordLimits, KeywordPlace, Linked, LinkedWords } from './places.ts';
export { KeywordPlaces } from './places.ts';
export { foldWord } from './wordScan.ts';
