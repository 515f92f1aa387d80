import { ref } from 'vue';

/** The page a bookmarklet was pressed on, until the paste bar has taken it. */
export const pageFromBookmarklet = ref<string | undefined>();

/**
 * The script of the bookmarklet: it opens the application in a new tab with the page's address behind #. Nothing is
 * loaded into the shop's page and nothing is sent: what stands behind # never leaves the browser.
 *
 * @param origin where the application is
 */
export const bookmarklet = (origin: string): string =>
  `javascript:void window.open(${JSON.stringify(`${origin}/links#page=`)}+encodeURIComponent(location.href),"_blank")`;

/**
 * The script of the bookmarklet for who writes elsewhere: it opens the search for a link in a small window.
 *
 * @param origin where the application is
 */
export const searchBookmarklet = (origin: string): string =>
  `javascript:void window.open(${JSON.stringify(`${origin}/copy`)},"fernhop-copy","width=480,height=560")`;

/**
 * The page behind # of an address that a bookmarklet opened, decoded once; undefined where there is none.
 *
 * @param hash as it stands in the address, not decoded: whoever decodes twice tears `?q=fish%26chips`
 */
export const pageIn = (hash: string): string | undefined => {
  const written = /^#page=(.+)$/s.exec(hash)?.[1];
  if (written === undefined) return undefined;
  try {
    const page = decodeURIComponent(written);
    return /^https?:\/\/./i.test(page) ? page : undefined;
  } catch {
    return undefined;
  }
};
