import type { ArticleChoices } from '#core/catalogue';

/** How articles are read where a person says nothing else. */
export const usualArticles: ArticleChoices = {
  perKeyword: 2,
  perLink: 3,
  perArticle: 12,
  apart: 100,
  headings: false,
  skip: [],
  never: [],
  markdown: 'markdown',
  without: [],
  disclosure: '',
};
