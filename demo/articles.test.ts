import { readdirSync, readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { editsOf, makeLinkReader, makeLooker, readArticles, usualArticles } from '#core/articles';
import { pageRecord, whereUsed } from '#core/where-used';
import { articleWords } from './articles/words.ts';
import { nightledge } from './season/catalogue.ts';

const folder = new URL('articles/', import.meta.url);
const truth = JSON.parse(readFileSync(new URL('truth.json', folder), 'utf8')) as Record<string, string[]>;
const end = Date.UTC(2026, 10, 23);
const made = nightledge(
  (name) => `${name}.example`,
  end,
  () => 'x'.repeat(32),
);
const { links } = made;
const reader = makeLinkReader({
  ...made,
  domains: [made.domain],
  links,
  products: [],
  port: '',
  dead: new Map(),
  now: end,
});
const looker = makeLooker(reader, usualArticles);
/** What is wrong with a link that stands there; the other finds are chances, or of words and pictures. */
const ofLinks = /^(?:shop|raw|ended|nowhere|dead|not joined|rule|marks)\b/;
const read = (name: string, bytes: Uint8Array) => {
  const found = readArticles(name, bytes);
  if (!found.ok) throw new Error(found.says);
  const [article] = found.read.articles;
  if (!article) throw new Error(`${name} has no article.`);
  return { file: found.read.file, article, ...looker.look(article, article.source) };
};

describe('the articles of Nightledge', () => {
  it('are twelve, each with its truth, and every word belongs to a link', () => {
    const names = readdirSync(folder).filter((name) => /\.(?:html|mdx?)$/.test(name));
    expect(names.toSorted()).toEqual(Object.keys(truth).toSorted());
    expect(names).toHaveLength(12);
    const slugs = new Set(made.links.map(({ slug }) => slug));
    expect(Object.keys(articleWords).filter((slug) => !slugs.has(slug))).toEqual([]);
  });

  it.each(Object.entries(truth))(
    '%s has what was planted in it, and nothing once that is done',
    (name, planted) => {
      const bytes = readFileSync(new URL(name, folder));
      const { file, article, finds } = read(name, bytes);
      const slugOf = new Map(links.map(({ id, slug }) => [id, slug]));
      expect(finds.map(({ kind, link }) => [kind, slugOf.get(link ?? '') ?? ''].join(' ').trim())).toEqual(
        planted,
      );
      // What is kept of it says the same of its links.
      const kept = pageRecord({ name, by: 'file', title: '', readAt: end }, read(name, bytes));
      const [used] = whereUsed(reader, [kept], []);
      const mended = used?.links.flatMap(({ link, mend }) => {
        return mend ? [`${mend.kind} ${slugOf.get(link ?? '') ?? ''}`.trim()] : [];
      });
      expect(mended).toEqual(planted.filter((each) => ofLinks.test(each)));
      expect(Buffer.from(file.write([])).equals(bytes)).toBe(true);
      const again = read(name, file.write(article.place(editsOf(finds))));
      expect(again.finds.filter(({ edits }) => edits.length > 0)).toEqual([]);
    },
  );
});
