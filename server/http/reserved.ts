/** Who answers at an address the server keeps for itself. */
export type Reserved = 'postback' | 'pixel' | 'page';

/** The path of a request's address without its first `/` and what comes after `?`; empty where it is none. */
export const pathOf = (url: string): string => {
  const mark = url.indexOf('?');
  return url.slice(1, mark < 0 ? url.length : mark);
};

/** A request's address without the scheme and host that a proxy puts before it (RFC 9112 §3.2.2). */
export const withoutOrigin = (url: string): string => /^https?:\/\/[^/?#]*(\/.*)$/is.exec(url)?.[1] ?? url;

const pages: ReadonlySet<string> = new Set(['beacon', 'place.js', 'thanks.js', 'robots.txt']);

/**
 * Who answers at an address before any short link does; undefined where it is left to the links. It looks at the path
 * alone: what comes after `?` may hold any bytes. Every hop comes by here, so the first letter decides most.
 */
export const reservedAt = (url: string): Reserved | undefined => {
  switch (url.charCodeAt(1)) {
    case 112: // p
      if (url.startsWith('/postback/')) return 'postback';
      if (url.startsWith('/pixel/')) return 'pixel';
      break;
    case 46: // .
      if (url.startsWith('/.well-known/')) return 'page';
      break;
    case 98: // b
    case 114: // r
    case 116: // t
      break;
    default:
      return undefined;
  }
  return pages.has(pathOf(url)) ? 'page' : undefined;
};
