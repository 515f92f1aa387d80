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
