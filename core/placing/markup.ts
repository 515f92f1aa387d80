/** A text on one line. */
export const oneLine = (text: string): string => text.replace(/\s+/g, ' ').trim();

/** A text as Markdown that reads as it stands (CommonMark 0.31, §2.4 backslash escapes; `|` parts cells in tables of GFM). */
export const markdownText = (text: string): string =>
  oneLine(text).replace(/[\\`*_[\]<>&~|!]/g, (mark) => `\\${mark}`);

/** An address as the destination of a Markdown link, its bytes unchanged (CommonMark 0.31, §6.3 link destination). */
export const markdownAddress = (address: string): string =>
  /[\s()<>\\|*_[\]]|&#?\w+;/.test(address)
    ? `<${address.replace(/[\\<>|]/g, (mark) => `\\${mark}`).replace(/&(?=#?\w+;)/g, '&amp;')}>`
    : address;

/** A link as Markdown: `[text](address "title")`. Marks such as `rel` have no place in it. */
export const markdownLink = (address: string, text: string, title: string): string =>
  `[${markdownText(text)}](${markdownAddress(address)}${title === '' ? '' : ` "${markdownText(title).replaceAll('"', '\\"')}"`})`;

/**
 * A link as forums write it: `[url=address]text[/url]`. There is no way to escape a bracket in it (common practice), so those of
 * the text become round ones, and those of the address are percent-encoded.
 */
export const bbcodeLink = (address: string, text: string): string =>
  `[url=${address.replaceAll('[', '%5B').replaceAll(']', '%5D')}]${oneLine(text).replaceAll('[', '(').replaceAll(']', ')')}[/url]`;
