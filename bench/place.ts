import { parentPort, Worker, isMainThread } from 'node:worker_threads';
import { fileURLToPath } from 'node:url';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { parse } from 'parse5';
import { makeLinkReader, makeLooker, usualArticles } from '#core/articles';
import { registerOf } from '../server/testing/articleRegister.ts';
import { testLink } from '../server/testing/records.ts';
import { makeArticle, makeKeywords } from './articleText.ts';

/** Turns, of which each measures all one after the other; the first of them warm up and are not counted. */
const [turns, warmUp] = [13, 2];

const lookerOf = (keywords: readonly string[]) => {
  const links = keywords.map((text, i) =>
    testLink(`l${i}`, {
      destination: `https://shop${i}.example/`,
      keywords: [{ text, forms: i % 2 === 0 }],
    }),
  );
  const choices = { ...usualArticles, perArticle: 1000, perKeyword: 3, perLink: 3, apart: 100 };
  return makeLooker(makeLinkReader(registerOf(links)), choices);
};

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;
/** Milliseconds of work that begins with what came before cleared away: nobody is to pay for another's garbage. */
const timed = (work: () => unknown): number => {
  collect();
  const start = performance.now();
  work();
  return performance.now() - start;
};
const median = (list: readonly number[]): number => list.toSorted((a, b) => a - b)[list.length >> 1] ?? NaN;

/** The plain way: one regular expression for each keyword, over the text of the whole article. */
const plainWay = (text: string, keywords: readonly string[]): number => {
  let found = 0;
  for (const keyword of keywords) {
    const pattern = new RegExp(`(?<![\\p{L}\\p{N}])${keyword}(?![\\p{L}\\p{N}])`, 'giu');
    for (const _ of text.matchAll(pattern)) found += 1;
  }
  return found;
};

const measure = (): string => {
  const [text, twice] = [makeArticle(1_000_000, 1), makeArticle(2_000_000, 1)];
  const [two, four] = [makeKeywords(2000, 2), makeKeywords(4000, 2)];
  const [looker, larger] = [lookerOf(two), lookerOf(four)];
  const times: Record<'parse' | 'look' | 'keywords' | 'text', number[]> = {
    parse: [],
    look: [],
    keywords: [],
    text: [],
  };
  const look = (of: typeof looker, what: string) => of.look({ text: what, form: 'html' }, 'nights');
  for (let turn = 0; turn < turns; turn++) {
    if (turn === warmUp) for (const list of Object.values(times)) list.length = 0;
    times.parse.push(timed(() => parse(text, { sourceCodeLocationInfo: true })));
    times.look.push(timed(() => look(looker, text)));
    times.keywords.push(timed(() => look(larger, text)));
    times.text.push(timed(() => look(looker, twice)));
  }
  /** Of each turn, so that what the machine does meanwhile meets both. */
  const ratio = (of: readonly number[], to: readonly number[]): string =>
    median(of.map((time, i) => time / (to[i] ?? NaN))).toFixed(2);
  const plain = timed(() => plainWay(text, two));
  const finds = look(looker, text).finds.filter(({ kind }) => kind === 'keyword').length;
  return [
    `1 MB of HTML, 2,000 keywords, ${finds} linked; medians of ${turns - warmUp} turns in a worker`,
    `all of it ÷ parse5 with positions alone (${Math.round(median(times.parse))} ms)   ${ratio(times.look, times.parse)}   (at most 1.5)`,
    `twice the keywords ÷ once                               ${ratio(times.keywords, times.look)}   (at most 1.3)`,
    `twice the text ÷ once                                   ${ratio(times.text, times.look)}   (at most 2.2)`,
    `one regular expression a keyword ÷ all of it            ${(plain / median(times.look)).toFixed(1)}`,
  ].join('\n');
};

if (isMainThread) {
  new Worker(fileURLToPath(import.meta.url)).on('message', (text: string) => {
    console.log(text);
  });
} else parentPort?.postMessage(measure());
