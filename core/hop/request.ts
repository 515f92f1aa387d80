import type { Device } from '#core/catalogue';
import { isUlid } from '#core/catalogue';

/** What is known of a request when its hop is decided. */
export interface HopRequest {
  /** Milliseconds since 1970 UTC. */
  readonly at: number;
  readonly source: string;
  /** Raw query to pass on, less our own parameters. */
  readonly query: string;
  /** ISO 3166-1 alpha-2, or empty when unknown. */
  readonly country: string;
  readonly device: Device;
  /** First language tag the browser asks for, or empty. */
  readonly language: string;
  /** Key by which the visitor is known: for a day, or as long as the domain's cookie lives. */
  readonly visitor: string;
  /** Was here before, as far as the visitor's key can tell. */
  readonly returning: boolean;
}

/** A short address as it was asked for. */
export interface Asked {
  /** Prefix and slug in lower case, without the first `/`. */
  readonly path: string;
  /** The name after `~`, or of `?from=`; empty when there is none or it is no source name. */
  readonly source: string;
  /** What stood after `?`, raw, less `from`, `from-page`, `from-click`, `test` and `second-page`. */
  readonly query: string;
  /** The page the visitor comes from, as the page script tells it in `?from-page=`; empty where it is no address of the web. */
  readonly fromPage: string;
  /** The click that led to the page the link stands on, of `?from-click=`; empty where it is no click ID. */
  readonly first: string;
  /** The value of `?test=`, empty when there is none. */
  readonly test: string;
  /** The value of `?second-page=`: click ID and branch of the first of two pages. */
  readonly secondPage: string;
}

const sourceName = /^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$/;
const plain = /^[a-z0-9._/-]*$/;

/** True for a name a source may have. */
export const isSourceName = (name: string): boolean => sourceName.test(name);

/**
 * Reads a request target into slug, source and query. Gives undefined for what no link could answer:
 * not in origin form, bytes outside visible ASCII, broken percent-encoding, or an encoded line break or NUL
 * anywhere (RFC 9112 §3.2; RFC 3986 §2).
 */
export const readTarget = (target: string): Asked | undefined => {
  if (target.charCodeAt(0) !== 47) return undefined;
  const mark = target.indexOf('?');
  let path = mark < 0 ? target.slice(1) : target.slice(1, mark);
  let query = mark < 0 ? '' : target.slice(mark + 1);
  let source = '';
  let test = '';
  let secondPage = '';
  let fromPage = '';
  let first = '';
  if (!plain.test(path)) {
    const decoded = decodePath(path);
    if (decoded === undefined) return undefined;
    path = decoded;
    const tilde = path.indexOf('~');
    if (tilde >= 0) {
      const name = path.slice(tilde + 1).replace(/\/$/, '');
      if (sourceName.test(name)) source = name;
      path = path.slice(0, tilde);
    }
    path = path.toLowerCase();
  }
  if (path.length > 1 && path.endsWith('/')) path = path.slice(0, -1);
  if (query !== '') {
    if (!/^[\x21-\x7e]*$/.test(query) || /%0[ad0]/i.test(query) || !goodEscapes(query)) return undefined;
    if (/(?:^|&)(?:from|from-page|from-click|test|second-page)=/.test(query)) {
      const passed: string[] = [];
      for (const pair of query.split('&')) {
        if (pair.startsWith('from='))
          source = source === '' && sourceName.test(pair.slice(5)) ? pair.slice(5) : source;
        else if (pair.startsWith('from-page=')) fromPage = pageIn(pair.slice('from-page='.length));
        else if (pair.startsWith('from-click=')) first = clickIn(pair.slice('from-click='.length));
        else if (pair.startsWith('test=')) test = pair.slice(5);
        else if (pair.startsWith('second-page=')) secondPage = pair.slice('second-page='.length);
        else passed.push(pair);
      }
      query = passed.join('&');
    }
  }
  return { path, source, query, fromPage, first, test, secondPage };
};

/** The address in a parameter; empty where there is none. Its escapes are sound. */
const pageIn = (value: string): string => {
  let page: string;
  try {
    page = decodeURIComponent(value);
  } catch {
    return '';
  }
  return page.length <= 1024 && /^https?:\/\/[^\s/?#][^\s]*$/.test(page) ? page : '';
};

/** A click ID in a parameter, in upper case; empty where there is none. */
const clickIn = (value: string): string => (isUlid(value) ? value.toUpperCase() : '');

/**
 * Reads the address of a page that a click of ours led to: that click and its source, where the page's own link passed both on as
 * `?from-click={click}&from={source}`.
 */
export const landedBy = (page: string): { readonly first: string; readonly source: string } => {
  // Of several of one name the first holds, as with `URLSearchParams.get`; what stands behind `#` is none.
  const value = (name: string) => new RegExp(`^[^#]*?[?&]${name}=([^&#]*)`).exec(page)?.[1] ?? '';
  const first = clickIn(value('from-click'));
  const source = first === '' ? '' : value('from');
  return { first, source: sourceName.test(source) ? source : '' };
};

/**
 * The click that led to the page a link stands on, and the source: what the address itself says, else what the page's address says
 * that the browser names (`Referer`, RFC 9110 §10.1.3), which is whole only where the page's policy allows it.
 */
export const cameBy = (
  { first, source }: Pick<Asked, 'first' | 'source'>,
  referer: string,
): { readonly first: string; readonly source: string } => {
  if ((first !== '' && source !== '') || !referer.includes('from-click=')) return { first, source };
  const landed = landedBy(referer);
  if (first !== '' && first !== landed.first) return { first, source };
  return { first: landed.first, source: source === '' ? landed.source : source };
};

const schemeAndHost = /^https?:\/\/([^/?#]*)/i;

/**
 * The page a visitor comes from: what the page script says, which knows the whole address, where the browser names the same host or
 * nothing; else what the browser says (`Referer`, RFC 9110 §10.1.3).
 */
export const cameFrom = ({ fromPage }: Pick<Asked, 'fromPage'>, referer: string): string => {
  if (fromPage === '') return referer;
  const host = (url: string) => schemeAndHost.exec(url)?.[1]?.toLowerCase();
  return referer === '' || host(referer) === host(fromPage) ? fromPage : referer;
};

const goodEscapes = (text: string): boolean => !text.includes('%') || !/%(?![0-9a-f]{2})/i.test(text);

const decodePath = (path: string): string | undefined => {
  if (!/^[\x21-\x7e]*$/.test(path)) return undefined;
  if (!path.includes('%')) return path;
  try {
    const decoded = decodeURIComponent(path);
    return /[\x00-\x1f\x7f]/.test(decoded) ? undefined : decoded;
  } catch {
    return undefined;
  }
};

/**
 * Phone, tablet or desktop, by the client hint where sent, else by the user agent ("Mobi" for phones is what
 * MDN's guide to browser detection recommends; tablets name themselves or are Android without "Mobi").
 */
export const deviceOf = (userAgent: string, mobileHint?: string): Device => {
  if (/iPad|Tablet|PlayBook|Silk(?!.*Mobi)/.test(userAgent)) return 'tablet';
  if (mobileHint === '?1' || userAgent.includes('Mobi')) return 'phone';
  return userAgent.includes('Android') && mobileHint !== '?0' ? 'tablet' : 'desktop';
};
