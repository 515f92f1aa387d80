import Bowser from 'bowser';
import { element } from '#core/catalogue';

/** What a user agent says of itself; empty where it says nothing that is known. */
export interface Browser {
  readonly browser: string;
  readonly system: string;
}

/** What says who it is says it within so many characters. */
const longestRead = 400;

/** Reads a user agent, by the `bowser` library. */
export const browserOf = (userAgent: string): Browser => {
  if (userAgent.trim() === '') return { browser: '', system: '' };
  const { browser, os } = Bowser.parse(userAgent.slice(0, longestRead));
  return { browser: browser.name ?? '', system: os.name ?? '' };
};

const known = new WeakMap<readonly string[], Browser[]>();

/** What each of a growing list of user agents says; each is read once. */
export const browsersOf = (userAgents: readonly string[]): readonly Browser[] => {
  let read = known.get(userAgents);
  if (!read) known.set(userAgents, (read = []));
  for (let i = read.length; i < userAgents.length; i++) read.push(browserOf(element(userAgents[i])));
  return read;
};
