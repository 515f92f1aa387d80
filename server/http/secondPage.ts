import { createHmac, timingSafeEqual } from 'node:crypto';
import { clickTime } from '#core/hop';

/** How long the second of two pages may be asked for after the first, in milliseconds. */
const goodMs = 120_000;

/** Hands out and reads what `?second-page=` carries from the first of two pages to the second. */
export interface SecondPages {
  /** For a click of a link that takes a branch: `CLICK.BRANCH.SIGNATURE`. */
  seal(click: string, link: string, branch: string): string;
  /** The click and branch of the first page; undefined where it is none of ours, another link's, or too old. */
  open(sealed: string, link: string, at: number): { click: string; branch: string } | undefined;
}

/**
 * Signs with a key of the server's what the second page is asked with, so that no visitor can choose a click ID or a
 * branch. The click ID holds the time of the first page, so the signature covers that too.
 */
export const makeSecondPages = (key: Buffer): SecondPages => {
  const macOf = (click: string, link: string, branch: string): string =>
    createHmac('sha256', key)
      .update(`second page|${click}|${link}|${branch}`)
      .digest('base64url')
      .slice(0, 22);
  return {
    seal: (click, link, branch) => `${click}.${branch}.${macOf(click, link, branch)}`,
    open: (sealed, link, at) => {
      const [click = '', branch = '', mac = '', more] = sealed.split('.', 4);
      const made = clickTime(click);
      if (more !== undefined || made === undefined || Math.abs(at - made) >= goodMs) return undefined;
      const given = Buffer.from(mac);
      const expected = Buffer.from(macOf(click, link, branch));
      return given.length === expected.length && timingSafeEqual(given, expected)
        ? { click, branch }
        : undefined;
    },
  };
};
