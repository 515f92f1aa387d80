import { expose } from 'comlink';
import { micromark } from 'micromark';
import { frontmatter, frontmatterHtml } from 'micromark-extension-frontmatter';
import { gfm, gfmHtml } from 'micromark-extension-gfm';
import type { ArticleChoices, Page } from '#core/catalogue';
import type {
  ArticleForm,
  ArticleLooker,
  ArticleRegister,
  ArticlesFile,
  Edit,
  Find,
  LinkReader,
} from '#core/articles';
import {
  editsOf,
  makeLinkReader,
  makeLooker,
  pageTitle,
  pastedArticle,
  readArticles,
  usualArticles,
  withEdits,
} from '#core/articles';
import type { PageUse } from '#core/queries';
import type { UsedPage } from '#core/where-used';
import { pageRecord, whereUsed } from '#core/where-used';
import { articlePage } from './articlePage.ts';

/** An article of a file, and what was found in it. */
export interface SeenArticle {
  readonly title: string;
  readonly page: string;
  readonly source: string;
  readonly form: ArticleForm;
  readonly words: number;
  readonly finds: readonly Find[];
  /** What is left as it is, as sentences. */
  readonly left: readonly string[];
}
/** A file as it was read. */
export interface SeenFile {
  readonly encoding: string;
  readonly isGuessed: boolean;
  readonly isExport: boolean;
  readonly left: readonly string[];
  readonly articles: readonly SeenArticle[];
}

let reader: LinkReader | undefined;
let looker: ArticleLooker | undefined;
const files = new Map<string, ArticlesFile>();

const seenArticle = (file: ArticlesFile, index: number, source: string): SeenArticle => {
  const article = file.articles[index];
  if (!article || !looker) throw new Error('The article is not read.');
  const { finds, words, parts } = looker.look(article, source);
  const { title, page, form } = article;
  return { title, page, source, form, words, finds, left: parts.left };
};

/** Marks for what was found, put into the text of an article: where it reads, and nothing but its words. */
const markEdits = (finds: readonly Find[], form: ArticleForm, text: string): Edit[] =>
  finds.flatMap(({ start, end, kind, was }, i): Edit[] => {
    if (kind === 'disclosure') {
      const gap = form === 'html' ? '' : '\n\n';
      return [
        {
          start,
          end: start,
          text: `<div data-find="${i}">${was.replace(/[&<>]/g, '')}</div>${gap}`,
          order: 'apart',
        },
      ];
    }
    // The address of a definition is nowhere to be read.
    if (
      form !== 'html' &&
      /^\s*\[[^\]]*\]:\s*$/.test(text.slice(text.lastIndexOf('\n', start - 1) + 1, start))
    )
      return [];
    return [
      { start, end: start, text: `<mark data-find="${i}">` },
      { start: end, end, text: '</mark>', order: 'closes' },
    ];
  });

/** An article as a page that is looked at. */
const shown = (text: string, form: ArticleForm): string =>
  articlePage(
    form === 'html'
      ? text
      : micromark(text, {
          extensions: [gfm(), frontmatter(['yaml', 'toml'])],
          htmlExtensions: [gfmHtml(), frontmatterHtml(['yaml', 'toml'])],
          allowDangerousHtml: true,
        }),
  );

const worker = {
  /** What files are read against from now on. */
  know: (register: ArticleRegister, choices: Partial<ArticleChoices>): void => {
    reader = makeLinkReader(register);
    looker = makeLooker(reader, { ...usualArticles, ...choices });
  },
  /** Reads a file; a sentence where it cannot be. */
  open: (
    id: string,
    name: string,
    bytes: Uint8Array,
    encoding?: string,
  ): SeenFile | { readonly says: string } => {
    const read = readArticles(name, bytes, encoding);
    if (!read.ok) return { says: read.says };
    files.set(id, read.read);
    return worker.look(id);
  },
  /** Reads a text that was pasted. */
  paste: (id: string, text: string): SeenFile | { readonly says: string } => {
    const read = pastedArticle(text);
    if (!read) return { says: 'The text could not be read.' };
    files.set(id, read);
    return worker.look(id);
  },
  /** Looks at a file that was read, anew; with other names of sources where they were chosen. */
  look: (id: string, sources: readonly string[] = []): SeenFile => {
    const file = files.get(id);
    if (!file) throw new Error('The file is not read.');
    return {
      encoding: file.file.encoding,
      isGuessed: file.file.isGuessed,
      isExport: file.isExport,
      left: file.left,
      articles: file.articles.map(({ source }, i) => seenArticle(file, i, sources[i] ?? source)),
    };
  },
  close: (id: string): void => void files.delete(id),
  /** What of ours stands in a file that was read; none for one that could not be. */
  pages: (id: string, readAt: number): Page[] => {
    const file = files.get(id);
    return (file?.articles ?? []).flatMap((article) => {
      if (!file || !looker) return [];
      const { title, page } = article;
      // An export may say on which page its article stands.
      const name = /^https?:/i.test(page) ? page : file.isExport ? `${file.name}: ${title}` : file.name;
      return [pageRecord({ name, by: 'file', title, readAt }, looker.look(article, ''))];
    });
  },
  /** What of ours stands on a page of a site. */
  readPage: (url: string, html: string, readAt: number): Page => {
    if (!looker) throw new Error('Nothing is known to read against.');
    const looked = looker.look({ text: html, form: 'html', page: url }, '');
    return pageRecord({ name: url, by: 'crawl', title: pageTitle(html), readAt }, looked);
  },
  /** Every page and file that is known to carry links, judged by today's links. */
  whereUsed: (read: readonly Page[], heard: readonly PageUse[]): UsedPage[] =>
    reader ? whereUsed(reader, read, heard) : [],
  /** An article as a page, with its finds marked. */
  page: (id: string, index: number, finds: readonly Find[]): string => {
    const article = files.get(id)?.articles[index];
    if (!article) return '';
    const marked = withEdits(article.text, markEdits(finds, article.form, article.text));
    try {
      return shown(marked, article.form);
    } catch (fault) {
      // A tree can be nested deeper than calls may be.
      if (!(fault instanceof RangeError)) throw fault;
      return '<p>It is nested too deep to be shown. What was found stands beside it.</p>';
    }
  },
  /** An article before and after some finds. */
  compare: (id: string, index: number, finds: readonly Find[]): { before: string; after: string } => {
    const text = files.get(id)?.articles[index]?.text ?? '';
    return { before: text, after: withEdits(text, editsOf(finds)) };
  },
  /** A file with what was accepted in its articles. */
  write: (id: string, accepted: readonly (readonly Find[])[]): Uint8Array => {
    const file = files.get(id);
    if (!file) throw new Error('The file is not read.');
    return file.file.write(file.articles.flatMap((article, i) => article.place(editsOf(accepted[i] ?? []))));
  },
};
export type ArticlesWorker = typeof worker;

expose(worker);
