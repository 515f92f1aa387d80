import { element } from '#core/catalogue';

/** The request headers a hop looks at; an empty text where one was not sent. */
export interface HopHeaders {
  host: string;
  userAgent: string;
  referer: string;
  language: string;
  mobile: string;
  /** `Sec-Purpose`, or one of the older names for it. */
  purpose: string;
  cookie: string;
  /** It carries a header that only a proxy adds. */
  forwarded: boolean;
  /** `X-Forwarded-Proto`: how the visitor reached the proxy, by its own word. */
  proto: string;
  /** `Host` was sent more than once, which no two servers read alike (RFC 9112 §3.2). */
  twoHosts: boolean;
}

/**
 * True for a header's name in any case. The way it is usually written is asked for first, and before it the last letter,
 * which tells those of one length apart: `Accept-Language` from `Accept-Encoding`, `User-Agent` from `Connection`.
 */
const is = (name: string, usual: string, lower: string): boolean =>
  (name.charCodeAt(name.length - 1) | 32) === lower.charCodeAt(lower.length - 1) &&
  (name === usual || name.toLowerCase() === lower);

/**
 * Reads those headers from Node's raw list (names and values alternate) in one pass. Building `request.headers`,
 * which makes an object of all of them, costs a hop more than choosing its branch. Of a header sent twice the first
 * counts, as Node has it for these.
 */
export const readHeaders = (raw: readonly string[]): HopHeaders => {
  const headers: HopHeaders = {
    host: '',
    userAgent: '',
    referer: '',
    language: '',
    mobile: '',
    purpose: '',
    cookie: '',
    forwarded: false,
    proto: '',
    twoHosts: false,
  };
  let hosts = 0;
  for (let i = 0; i + 1 < raw.length; i += 2) {
    const name = element(raw[i]);
    const value = element(raw[i + 1]);
    switch (name.length) {
      case 4:
        if (is(name, 'Host', 'host')) {
          if (++hosts === 1) headers.host = value;
          else headers.twoHosts = true;
        }
        break;
      case 5:
        if (headers.purpose === '' && is(name, 'X-Moz', 'x-moz')) headers.purpose = value;
        break;
      case 6:
        if (headers.cookie === '' && is(name, 'Cookie', 'cookie')) headers.cookie = value;
        break;
      case 7: {
        if (headers.referer === '' && is(name, 'Referer', 'referer')) headers.referer = value;
        else if (headers.purpose === '' && is(name, 'Purpose', 'purpose')) headers.purpose = value;
        break;
      }
      case 9:
        headers.forwarded ||= is(name, 'X-Real-IP', 'x-real-ip') || is(name, 'Forwarded', 'forwarded');
        break;
      case 10:
        if (headers.userAgent === '' && is(name, 'User-Agent', 'user-agent')) headers.userAgent = value;
        break;
      case 11:
        if (headers.purpose === '' && is(name, 'Sec-Purpose', 'sec-purpose')) headers.purpose = value;
        break;
      case 15:
        if (headers.language === '' && is(name, 'Accept-Language', 'accept-language'))
          headers.language = value;
        else if (is(name, 'X-Forwarded-For', 'x-forwarded-for')) headers.forwarded = true;
        break;
      case 17:
        if (headers.proto === '' && is(name, 'X-Forwarded-Proto', 'x-forwarded-proto')) headers.proto = value;
        break;
      case 16:
        if (headers.mobile === '' && is(name, 'sec-ch-ua-mobile', 'sec-ch-ua-mobile')) headers.mobile = value;
        break;
    }
  }
  return headers;
};
