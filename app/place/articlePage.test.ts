import { parse } from 'parse5';
import type { DefaultTreeAdapterMap } from 'parse5';
import { describe, expect, it } from 'vitest';
import { articlePage } from './articlePage.ts';

type Node = DefaultTreeAdapterMap['node'];
/** Every element and attribute of a page. */
const partsOf = (html: string): string[] => {
  const found: string[] = [];
  const walk = (node: Node) => {
    if ('tagName' in node)
      found.push(node.tagName, ...node.attrs.map(({ name }) => `${node.tagName}[${name}]`));
    if ('childNodes' in node) for (const child of node.childNodes) walk(child);
  };
  walk(parse(html));
  return found;
};

describe('an article as a page that is only looked at', () => {
  it.each([
    '<script>x</script><SCRIPT src=x></SCRIPT><svg><script>x</script></svg>',
    '<p onclick=x style="background:url(x)">a</p><body onload=x background=x>',
    '<iframe src=x></iframe><iframe srcdoc="<script>x</script>"></iframe><object data=x></object><embed src=x>',
    '<link rel=stylesheet href=x><style>@import "x"</style><base href=x><meta http-equiv=refresh content="0;x">',
    '<img src=x onerror=x srcset=x><picture><source srcset=x><img src=x></picture><video src=x poster=x></video>',
    '<svg><image href=x></image><use href=x></use><a href="x"><text>a</text></a></svg><math href=x><mi href=x>a</mi></math>',
    '<form action=x><input src=x type=image><button formaction=x>a</button></form><table background=x><tr><td background=x>a',
    '<noscript><p title="</noscript><img src=x onerror=x>"></noscript><template><img src=x></template>',
    '<math><mtext><table><mglyph><style><!--</style><img title="--&gt;&lt;img src=x onerror=x&gt;">',
  ])('runs nothing and fetches nothing: %s', (html) => {
    const allowed = /^(?:[a-z0-9]+\[(?:data-find|dir|lang|colspan|rowspan|start)\]|a\[href\]|span\[class\])$/;
    // What was written is read again, as the frame does.
    const parts = partsOf(articlePage(html));
    expect(parts.filter((part) => part.includes('[') && !allowed.test(part))).toEqual([]);
    expect(
      parts.filter((part) =>
        /^(?:script|style|iframe|object|embed|link|base|meta|img|video|source)$/.test(part),
      ),
    ).toEqual([]);
  });

  it('keeps words and structure, marks, and what is said of pictures', () => {
    expect(
      articlePage('<h1>A</h1><p>b <mark data-find="1">c</mark> <img src="d/e.jpg?x"><img alt="f" src=g>'),
    ).toContain(
      '<h1>A</h1><p>b <mark data-find="1">c</mark> <span class="picture">e.jpg</span><span class="picture">f</span></p>',
    );
  });
});
