/**
 * A placeholder in one of the styles of the trade (*common practice*), alone in a value: `{a}` `{{a}}` `${a}` `[[a]]`
 * `[a]` `%a%` `#a#` `<a>`. A network should have put a value in its place.
 */
const placeholder = /^(?:\$?\{.*\}|\[+[^[\]]+\]+|%[^%]*[a-z_][^%]*%|#[^#]+#|<[^<>]+>)$/i;

/** True for a placeholder that nobody replaced by a value. */
export const isPlaceholder = (value: string): boolean => placeholder.test(value);
