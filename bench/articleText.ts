/** Random numbers from 0 to below 1 that are the same each time (mulberry32). */
export const seeded = (start: number): (() => number) => {
  let state = start | 0;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
};

/** Words of three to ten letters, none twice. */
const wordList = (random: () => number, count: number): string[] => {
  const words = new Set<string>();
  while (words.size < count) {
    const length = 3 + Math.floor(random() * 8);
    let word = '';
    for (let i = 0; i < length; i++) word += String.fromCharCode(97 + Math.floor(random() * 26));
    words.add(word);
  }
  return [...words];
};

/**
 * A language of twenty thousand words, of which the nth is about 1/n as frequent as the first (Zipf's law).
 *
 * @param seed of what is drawn from it; the words are the same each time
 */
export const makeLanguage = (seed: number) => {
  const random = seeded(seed);
  const words = wordList(seeded(1), 20_000);
  const word = (): string => words[Math.floor(Math.exp(random() * Math.log(words.length))) - 1] ?? 'word';
  /** A word of which texts have few: what a keyword is. */
  const rare = (): string => words[500 + Math.floor(random() * (words.length - 500))] ?? 'word';
  return { random, word, rare };
};

/** An article of HTML: paragraphs, headings and lists, with what a blog's editor writes around them. */
export const makeArticle = (length: number, seed: number): string => {
  const { random, word } = makeLanguage(seed);
  const pieces = ['<!doctype html>\n<html lang="en"><head><title>Nights</title></head><body><article>\n'];
  let written = 0;
  const add = (text: string) => {
    pieces.push(text);
    written += text.length;
  };
  while (written < length) {
    const kind = random();
    if (kind < 0.08) add(`<h2 class="wide" id="p${written}">${word()} ${word()} ${word()}</h2>\n`);
    else if (kind < 0.12)
      add(
        `<figure class="full"><img src="/pictures/${word()}.jpg" alt="${word()} ${word()}" width="800" height="600"><figcaption>${word()} ${word()}</figcaption></figure>\n`,
      );
    else {
      const list = kind < 0.2;
      add(list ? '<ul>\n' : '<p>');
      const count = 40 + Math.floor(random() * 60);
      for (let i = 0; i < count; i++) {
        const each = random();
        const text = word();
        if (list && i % 12 === 0) add('<li>');
        if (each < 0.02) add(`<a href="https://${word()}.example/${word()}">${text} ${word()}</a> `);
        else if (each < 0.05) add(`<strong>${text}</strong> `);
        else if (each < 0.06) add(`${text}&nbsp;&mdash; `);
        else add(each < 0.15 ? `${text}, ` : `${text} `);
      }
      add(list ? '</ul>\n' : '</p>\n');
    }
  }
  return `${pieces.join('')}</article></body></html>\n`;
};

/** Keywords of one to three words. */
export const makeKeywords = (count: number, seed: number): string[] => {
  const { random, rare } = makeLanguage(seed);
  const keywords = new Set<string>();
  while (keywords.size < count) {
    const words = random();
    keywords.add(
      words < 0.34 ? rare() : words < 0.75 ? `${rare()} ${rare()}` : `${rare()} ${rare()} ${rare()}`,
    );
  }
  return [...keywords];
};
