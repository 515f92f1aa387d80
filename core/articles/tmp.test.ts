import { it } from 'vitest';
import { readFileSync, readdirSync } from 'node:fs';
import { makeLinkReader, makeLooker, usualArticles, withEdits, editsOf } from './index.ts';
import { register } from './testing/register.ts';
import { formOfName } from './article.ts';
import { parse } from 'parse5';
const files = readdirSync('node_modules', { recursive: true, encoding: 'utf8' })
  .filter((f) => /\.(md|html|htm|mdx)$/.test(f))
  .map((f) => 'node_modules/' + f);
it('corpora', () => {
  const words = [
    'the',
    'of',
    'object',
    'function',
    'string value',
    'code',
    'license',
    'a',
    'is',
    'install',
    'use the',
    'to',
  ];
  const base = register();
  const links = base.links.map((l, i) => ({
    ...l,
    keywords: words.slice(i * 2, i * 2 + 2).map((text) => ({ text, forms: true })),
  }));
  const reg = register({ links });
  let n = 0,
    bad = 0,
    total = 0,
    refused = 0,
    ms = 0,
    keywords = 0;
  for (const choices of [
    { ...usualArticles, apart: 10, perArticle: 50, perKeyword: 10, perLink: 20 },
    { ...usualArticles, apart: 10, markdown: 'html' as const, headings: true },
  ]) {
    const looker = makeLooker(makeLinkReader(reg), choices);
    for (const f of files.filter((f) =>
      /apexcharts.README|chai.README|eslint-visitor|formatly|type-fest/.test(f),
    )) {
      const text = readFileSync(f, 'utf8');
      if (text.length > 300000) continue;
      const form = formOfName(f) as 'html' | 'markdown' | 'mdx';
      n++;
      const t = performance.now();
      const got = looker.look({ text, form }, 'x');
      ms += performance.now() - t;
      total += got.finds.length;
      keywords += got.finds.filter((f) => f.kind === 'keyword').length;
      let after;
      try {
        after = withEdits(text, editsOf(got.finds));
      } catch (e) {
        console.error('EDITS', f, String(e));
        bad++;
        continue;
      }
      const again = looker.look({ text: after, form }, 'x').finds.filter((x) => x.edits.length > 0);
      if (again.length > 0) {
        bad++;
        if (bad < 12)
          console.error(
            'AGAIN',
            choices.markdown,
            f,
            got.finds.length,
            again.slice(0, 3).map((x) => [x.kind, x.was, after.slice(x.start - 60, x.end + 60)]),
          );
      }
      const refusedText = withEdits(text, []);
      if (refusedText !== text) refused++;
    }
  }
  console.error({ n, bad, total, keywords, refused, ms });
  void parse;
}, 300000);
it('tf', () => {
  const text = readFileSync('node_modules/type-fest/readme.md', 'utf8');
  const words = [
    'the',
    'of',
    'object',
    'function',
    'string value',
    'code',
    'license',
    'a',
    'is',
    'install',
    'use the',
    'to',
  ];
  const base = register();
  const links = base.links.map((l, i) => ({
    ...l,
    keywords: words.slice(i * 2, i * 2 + 2).map((text) => ({ text, forms: true })),
  }));
  const looker = makeLooker(makeLinkReader(register({ links })), {
    ...usualArticles,
    apart: 10,
    markdown: 'html' as const,
    headings: true,
  });
  const got = looker.look({ text, form: 'markdown' }, 'x');
  const after = withEdits(text, editsOf(got.finds));
  const got2 = looker.look({ text: after, form: 'markdown' }, 'x');
  console.error(
    got.words,
    got2.words,
    got.finds.slice(0, 8).map((x) => [x.kind, x.link, x.start, x.was]),
    got2.placed.slice(0, 9),
  );
  const at = after.indexOf('Many of the');
  console.error(
    got2.parts.runs
      .filter((r) => Math.abs(r.base - at) < 300)
      .map((r) => [r.where, r.base, r.text.slice(0, 80)]),
  );
});
