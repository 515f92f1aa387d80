const names = (list: string): ReadonlySet<string> => new Set(list.split(' '));

/** Elements of HTML in which nothing is words of an article: code, forms, what runs, and what is drawn. */
export const closedElements = names(
  'script style template noframes noembed xmp plaintext textarea select option optgroup datalist button form fieldset label input code pre kbd samp var tt ' +
    'iframe object embed audio video canvas svg math title head nav footer dialog',
);

/** Elements in which keywords are linked only where a person allows it. */
export const headingElements = names('h1 h2 h3 h4 h5 h6 hgroup caption summary dt');

/** Elements whose words are not read on from what stands before them. */
export const blockElements = names(
  'address article aside blockquote body center dd details dir div dl dt fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 header hgroup hr html ' +
    'li main menu nav ol p pre search section summary table tbody td tfoot th thead tr caption ul',
);

/** Elements between whose sides no word goes on. */
export const partingElements = names('br img picture');
