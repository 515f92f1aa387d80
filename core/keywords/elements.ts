/** Names of elements of HTML in which nothing is words of an article, parted by spaces: code, forms, what runs, and what is drawn. */
export const closedElements =
  'script style template noframes noembed xmp plaintext textarea select option optgroup datalist button form fieldset label input code pre kbd samp var tt ' +
  'iframe object embed audio video canvas svg math title head nav footer dialog';

/** Those in which keywords are linked only where a person allows it. */
export const headingElements = 'h1 h2 h3 h4 h5 h6 hgroup caption summary dt';

/** Those whose words are not read on from what stands before them. */
export const blockElements =
  'address article aside blockquote body center dd details dir div dl dt fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 header hgroup hr html ' +
  'li main menu nav ol p pre search section summary table tbody td tfoot th thead tr caption ul';

/** Those between whose sides no word goes on. */
export const partingElements = 'br img picture';
