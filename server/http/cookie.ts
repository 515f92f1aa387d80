import { isLocalHost } from '#core/catalogue';

const name = 'visitor';

/** The visitor a domain's own cookie names; an empty text where there is none or it is none of ours. */
export const visitorIn = (cookies: string): string =>
  cookies === '' ? '' : (/(?:^|;\s*)visitor=([0-9a-f]{16})(?:;|$)/.exec(cookies)?.[1] ?? '');

/**
 * A domain's own cookie: it knows a visitor again for so many days. It holds the key the visitor had on the first day,
 * whose salt is erased, so it tells nothing about anybody.
 */
export const cookieFor = (visitor: string, days: number, host: string): string =>
  `${name}=${visitor}; Max-Age=${days * 86_400}; Path=/; HttpOnly; SameSite=Lax${
    isLocalHost(host) ? '' : '; Secure'
  }`;
