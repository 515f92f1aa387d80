import { decodeHTML } from 'entities';
import type { ArticleChoices, Product } from '#core/catalogue';
import type { Keyword, KeywordFinder } from '#core/keywords';
import { foldWord, inflectedLanguage, makeKeywordFinder } from '#core/keywords';
import type { ArticleFile } from './bytes.ts';
import { readBytes } from './bytes.ts';
import type { Find } from './find.ts';
import type { ArticleFinds } from './finds.ts';
import { findsIn } from './finds.ts';
import { readHtml } from './html.ts';
import type { Looking } from './sight.ts';
import { readMarkdown } from './markdown.ts';
import type { LinkReader } from './meaning.ts';
import type { ArticleParts } from './parts.ts';
import type { Edit } from './ranges.ts';
import { isExport, readExport } from './rss.ts';
import { htmlWriter, markdownWriter } from './writer.ts';

export type ArticleForm = 'html' | 'markdown' | 'mdx';

/** An article as it stands in a file, or one of those in an export. */
export interface Article {
  readonly title: string;
  /** Its page, where an export tells it; empty otherwise. */
  readonly page: string;
  /** What stands after `~` in its links. */
  readonly source: string;
  readonly form: ArticleForm;
  readonly text: string;
  /** Edits of it as edits of its file. */
  readonly place: (edits: readonly Edit[]) => Edit[];
}

/** A file with one article, or with those of an export. */
export interface ArticlesFile {
  readonly name: string;
  readonly file: ArticleFile;
  readonly isExport: boolean;
  readonly articles: readonly Article[];
  /** What was not read and is left as it is, as sentences. */
  readonly left: readonly string[];
}

/** The form of a file by its name; undefined for one that is no article. */
export const formOfName = (name: string): ArticleForm | 'export' | undefined => {
  const ending = /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase() ?? '';
  if (['html', 'htm', 'xhtml', 'vue', 'njk', 'liquid', 'php'].includes(ending)) return 'html';
  if (['md', 'markdown', 'mdown', 'mkd'].includes(ending)) return 'markdown';
  if (ending === 'mdx') return 'mdx';
  return ['xml', 'rss'].includes(ending) ? 'export' : undefined;
};

/** Letters, digits and hyphens of a name, as they may stand after `~` in a link; empty where nothing is left. */
const sourceOfName = (name: string): string =>
  (name.split(/[\\/]/).at(-1) ?? '')
    .replace(/\.[a-z0-9]+$/i, '')
    // The day that generators put before a post's name.
    .replace(/^\d{4}-\d{2}-\d{2}-/, '')
    .normalize('NFKD')
    .toLowerCase()
    .replace(/\p{Mark}/gu, '')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 64);

const sourceOf = (name: string): string => {
  const own = sourceOfName(name);
  // `saturn-guide/index.html` is the page of its folder.
  const folder = name.split(/[\\/]/).at(-2);
  return own === 'index' && folder !== undefined ? sourceOfName(folder) : own;
};

/** The title in an article: of its front matter, its first heading, or its page. */
const titleIn = (text: string, form: ArticleForm): string => {
  const beginning = text.slice(0, 20_000);
  const found =
    form === 'html'
      ? (/<h1[^>]*>([\s\S]*?)<\/h1>/i.exec(beginning)?.[1] ??
        /<title[^>]*>([\s\S]*?)<\/title>/i.exec(beginning)?.[1] ??
        /<h2[^>]*>([\s\S]*?)<\/h2>/i.exec(beginning)?.[1])
      : (/^---[\s\S]*?^title:\s*["']?(.+?)["']?\s*$/m.exec(beginning)?.[1] ??
        /^\+\+\+[\s\S]*?^title\s*=\s*["']?(.+?)["']?\s*$/m.exec(beginning)?.[1] ??
        /^#\s+(.+?)\s*#*$/m.exec(beginning)?.[1]);
  const bare = (found ?? '').replace(/<[^>]*>/g, '');
  return (form === 'html' ? decodeHTML(bare) : bare).replace(/\s+/g, ' ').trim().slice(0, 200);
};

/** What a page in HTML calls itself: its first heading, or its title; empty where it has neither. */
export const pageTitle = (html: string): string => titleIn(html, 'html');

const alone = (name: string, text: string, form: ArticleForm): Article => ({
  title: titleIn(text, form),
  page: '',
  source: sourceOf(name),
  form,
  text,
  place: (edits) => [...edits],
});

/**
 * Reads a file with an article of HTML or Markdown, or the RSS export of a blog.
 *
 * @param name by which its form is known
 * @param encoding what a person says it is written in; undefined to find it
 * @returns a sentence where it cannot be read
 */
export const readArticles = (
  name: string,
  bytes: Uint8Array,
  encoding?: string,
): { readonly ok: true; readonly read: ArticlesFile } | { readonly ok: false; readonly says: string } => {
  const file = readBytes(bytes, encoding);
  if (!file.ok) return file;
  const { text } = file;
  const named = formOfName(name);
  if (isExport(text)) {
    const { articles, left } = readExport(text);
    if (articles.length === 0)
      return {
        ok: false,
        says: left[0] ?? 'It is RSS without whole articles: none of its items has a content:encoded.',
      };
    return {
      ok: true,
      read: {
        name,
        file,
        isExport: true,
        left,
        articles: articles.map(({ title, page, html, place }) => ({
          title,
          page,
          source: sourceOf(page.replace(/[?#].*$/s, '').replace(/\/+$/, '')),
          form: 'html',
          text: html.text,
          place,
        })),
      },
    };
  }
  if (named === 'export')
    return {
      ok: false,
      says: 'It is XML, but no RSS: articles are read from HTML, Markdown and RSS exports.',
    };
  return {
    ok: true,
    read: { name, file, isExport: false, left: [], articles: [alone(name, text, named ?? 'html')] },
  };
};

/** A text that was pasted, as a file of its own. */
export const pastedArticle = (text: string): ArticlesFile | undefined => {
  const isHtml = /<(?:p|a|div|h[1-6]|ul|ol|table|br|img|article|html)\b[^>]*>/i.test(text);
  const name = isHtml ? 'pasted.html' : 'pasted.md';
  const read = readArticles(name, new TextEncoder().encode(text));
  return read.ok
    ? { ...read.read, articles: read.read.articles.map((each) => ({ ...each, source: '' })) }
    : undefined;
};

/** An article that was looked at. */
export interface LookedAt extends ArticleFinds {
  readonly parts: ArticleParts;
}

/** Looks at articles, any number of them, with the same links. */
export interface ArticleLooker {
  /** @param source what stands after `~` in the links that are put in */
  readonly look: (
    article: Pick<Article, 'text' | 'form'> & { readonly page?: string },
    source: string,
  ) => LookedAt;
}

/** Makes ready what articles are looked at with; it is the costly part where there are many links. */
export const makeLooker = (reader: LinkReader, choices: ArticleChoices): ArticleLooker => {
  const counters = new Map<string, number>();
  const counterOf = (name: string): number => {
    const known = counters.get(name);
    if (known === undefined) counters.set(name, counters.size);
    return known ?? counters.size - 1;
  };
  const keywords: Keyword[] = reader.register.links.flatMap((link) =>
    reader.ended(link) || reader.register.dead.has(link.id)
      ? []
      : (link.keywords ?? []).map(({ text, forms = false, exact = false }) => ({
          text,
          link: link.id,
          forms,
          exact,
          counter: counterOf(`${link.id}|${foldWord(text)}`),
        })),
  );
  const productsOf = new Map<string, Product[]>();
  for (const product of reader.register.products)
    if (product.link !== undefined)
      productsOf.set(product.link, [...(productsOf.get(product.link) ?? []), product]);
  const finders = new Map<string, KeywordFinder>();
  return {
    look: ({ text, form, page }, source) => {
      const parts = form === 'html' ? readHtml(text, page) : readMarkdown(text, form === 'mdx');
      const writer =
        form === 'html'
          ? htmlWriter(text)
          : markdownWriter(text, form === 'mdx' ? 'markdown' : choices.markdown);
      const language = inflectedLanguage(parts.language);
      let finder = finders.get(language);
      if (!finder) finders.set(language, (finder = makeKeywordFinder(keywords, choices.skip, language)));
      const looking: Looking = { reader, keywords, finder, choices, productsOf };
      return { ...findsIn(parts, writer, looking, source), parts };
    },
  };
};

/** The edits of some finds, as they are carried out together. */
export const editsOf = (finds: readonly Find[]): Edit[] => finds.flatMap(({ edits }) => edits);
