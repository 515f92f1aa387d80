/**
 * Stretches that a site's generator, a blog's program or a page's own script fills in, such as `{{ figure }}`, `{% note %}`,
 * `{: .class }`, `[[page]]`, `[gallery ids=1]`, `<% x %>`: nothing in them is read by anybody (common practice of generators).
 */
const filledIn =
  // Of what is not ended soon nothing is filled in; a bound keeps a text of many beginnings from being read over and over.
  /\{\{[\s\S]{0,2000}?\}\}|\{%[\s\S]{0,2000}?%\}|\{[:#.][^}\n]{0,500}\}|\[\[[\s\S]{0,500}?\]\]|\[\/?[a-z][\w-]{0,60}(?:\s[^\]\n]{0,800}=[^\]\n]{0,800})?\s?\/?\]|<%[\s\S]{0,2000}?%>|\$\$[\s\S]{0,2000}?\$\$/g;

/** Where nothing may be linked in a text, as pairs of begin and end. */
export const filledStretches = (text: string): [start: number, end: number][] =>
  /[{[<$]/.test(text)
    ? [...text.matchAll(filledIn)].map((match) => [match.index, match.index + match[0].length])
    : [];
