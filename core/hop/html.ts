const escapes: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

/** Escapes a text for HTML, in content and in attributes. */
export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"']/g, (letter) => escapes[letter] ?? letter);

/**
 * Writes a text as a string of JavaScript that can stand in a script element: nothing in it can end the element or the
 * line (HTML standard, §4.12.1.3, restrictions for contents of script elements).
 */
export const scriptText = (text: string): string =>
  JSON.stringify(text).replace(
    /[<>&\u2028\u2029]/g,
    (letter) => `\\u${letter.charCodeAt(0).toString(16).padStart(4, '0')}`,
  );

/** Plain words as paragraphs: an empty line begins a new one. */
export const paragraphs = (words: string): string =>
  words
    .trim()
    .split(/\n\s*\n/)
    .filter((part) => part.trim() !== '')
    .map((part) => `<p>${escapeHtml(part.trim()).replaceAll('\n', '<br>')}</p>`)
    .join('\n');
