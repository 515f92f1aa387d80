import UserAgent from 'user-agents';
import { element } from '#core/catalogue';
import { Chance } from './chance.ts';

const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const two = (n: number): string => String(n).padStart(2, '0');
/** As Apache and nginx write a moment. */
const commonTime = (at: number): string => {
  const day = new Date(at);
  return `${two(day.getUTCDate())}/${element(months[day.getUTCMonth()])}/${day.getUTCFullYear()}:${two(day.getUTCHours())}:${two(day.getUTCMinutes())}:${two(day.getUTCSeconds())} +0000`;
};

/** What a log is made up of. */
export interface MadeLog {
  readonly seed: number;
  /** Milliseconds since 1970 UTC of the first line, and how many lie between two on average. */
  readonly from: number;
  readonly everyMs: number;
  /** Paths that lead on, such as `/saturn-kit`. */
  readonly paths: readonly string[];
  /** How many of a hundred lines ask for one of them; the others ask for pages and pictures of a site. */
  readonly share: number;
}

/** Lines of an access log in the combined form, with user agents as browsers have them; made up by a seed. */
export const accessLogLines = function* ({ seed, from, everyMs, paths, share }: MadeLog): Generator<string> {
  const chance = new Chance(seed);
  const people = new UserAgent();
  const agents = Array.from({ length: 200 }, () => people.random().toString());
  for (let at = from; ; at += everyMs * 2 * chance.next()) {
    const address = `192.0.2.${Math.floor(chance.next() * 256)}`;
    const ua = element(agents[Math.floor(chance.next() * agents.length)]);
    const isOurs = chance.next() * 100 < share;
    const number = Math.floor(chance.next() * 1000);
    const target = isOurs
      ? `${element(paths[number % paths.length])}?from=letter&zone=${number}`
      : `/articles/${number}/picture.jpg`;
    yield `${address} - - [${commonTime(at)}] "GET ${target} HTTP/1.1" ${isOurs ? 302 : 200} 512 "https://nightledge.example/articles/${number}" "${ua}"\n`;
  }
};

/** So many lines of a log as one text. */
export const accessLogText = (lines: number, made: MadeLog): string => {
  let text = '';
  let left = lines;
  for (const line of accessLogLines(made)) {
    if (left-- === 0) break;
    text += line;
  }
  return text;
};
