import * as v from 'valibot';
import { slugProblem } from './slug.ts';

/** A text of at most so many characters. */
export const text = (max: number) =>
  v.pipe(
    v.string(),
    v.maxLength(max, `At most ${max} characters fit here.`),
    v.check(
      (words) => !words.includes('\0'),
      'This holds a NUL character, which no page can show. Take it out.',
    ),
  );
/** The same, not empty. */
export const named = (max: number) => v.pipe(text(max), v.trim(), v.minLength(1, 'This cannot be empty.'));
/** A record's ID: its kind's prefix, `_`, letters and digits. */
export const id = (prefix: string) =>
  v.pipe(
    v.string(),
    v.regex(new RegExp(`^${prefix}_[a-z0-9]{1,40}$`), `Not an ID that begins with ${prefix}_.`),
  );
export const host = v.pipe(
  v.string(),
  v.regex(
    /^(?=.{1,253}$)(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z][a-z0-9-]{0,61}[a-z0-9]$/,
    'Not a host name. It looks like see.nightledge.example, in lower case, with no scheme and no path.',
  ),
);
/**
 * The host in what a person types or pastes as one: of an address its host without port, in lower case, other letters as
 * punycode. What holds no host is given back as it is.
 */
export const hostIn = (text: string): string => {
  const typed = text.trim();
  const address = /^[a-z][a-z0-9+.-]*:\/\//i.test(typed) ? typed : `http://${typed}`;
  return typed === '' || !URL.canParse(address) ? typed : new URL(address).hostname;
};
export const hosts = v.pipe(v.array(v.pipe(v.string(), v.maxLength(253))), v.maxLength(50));
export const zone = v.pipe(
  v.string(),
  v.check((name) => {
    try {
      new Intl.DateTimeFormat('en', { timeZone: name });
      return true;
    } catch {
      return false;
    }
  }, 'Not a time zone name such as Europe/Berlin.'),
);
export const colour = v.pipe(
  v.string(),
  v.regex(/^#[0-9a-f]{6}$/, 'A colour is # and six digits, such as #2c6a4c.'),
);
export const currency = v.pipe(
  v.string(),
  v.regex(/^[A-Z]{3}$/, 'A currency is three capital letters, such as EUR.'),
);
export const parameter = v.pipe(
  v.string(),
  v.regex(/^[^\s&=#?]{1,64}$/, 'A parameter name has no space and none of & = # ?'),
);
/** Milliseconds since 1970 UTC. */
export const moment = v.pipe(v.number(), v.integer(), v.minValue(0));

export const slug = v.pipe(
  v.string(),
  v.rawCheck(({ dataset, addIssue }) => {
    if (!dataset.typed) return;
    const message = slugProblem(dataset.value);
    if (message !== undefined) addIssue({ message });
  }),
  v.toLowerCase(),
);
/** A slug, or a group and a slug: what stands in an address after the domain's prefix. */
export const slugPath = v.pipe(
  v.string(),
  v.maxLength(160),
  v.rawCheck(({ dataset, addIssue }) => {
    if (!dataset.typed) return;
    const parts = dataset.value.split('/');
    const message =
      parts.length > 3
        ? 'An address has at most two groups before its slug.'
        : parts.map(slugProblem).find((problem) => problem !== undefined);
    if (message !== undefined) addIssue({ message });
  }),
  v.toLowerCase(),
);
/**
 * An address with its host as it travels: a host in other letters becomes punycode (RFC 3492, by the URL standard).
 * Every other byte stays as it is, and so does what is no address.
 */
export const withAsciiHost = (address: string): string => {
  const [, scheme = '', authority = '', rest = ''] = /^(https?:\/\/)([^/?#]*)(.*)$/is.exec(address) ?? [];
  if (!/[^\x00-\x7f]/.test(authority) || authority.includes('@') || !URL.canParse(scheme + authority))
    return address;
  return scheme + new URL(scheme + authority).host + rest;
};

export const destination = v.pipe(
  v.string(),
  v.maxLength(8000, 'The destination is longer than 8,000 characters.'),
  v.regex(/^https?:\/\/[^/?#\s]/i, 'A destination begins with http:// or https:// and a host.'),
  v.transform(withAsciiHost),
);
/** An http or https address that a browser can open, or nothing; `what` names it in the problem. */
export const webAddress = (max: number, what: string) =>
  v.pipe(
    text(max),
    v.check(
      (address) => address === '' || (/^https?:\/\/[^\s"'<>]+$/i.test(address) && URL.canParse(address)),
      `${what} is an http or https address without spaces.`,
    ),
  );

/** True for a day of the calendar: 31 February is none. */
const isRealDay = (day: string): boolean => {
  const at = Date.parse(`${day}T00:00:00Z`);
  return !Number.isNaN(at) && new Date(at).toISOString().startsWith(day);
};
/** Local time in some zone, `2026-10-24T22:00`. */
export const localTime = v.pipe(
  v.string(),
  v.regex(
    /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])T(?:[01]\d|2[0-3]):[0-5]\d$/,
    'Not a day and time such as 2026-10-24T22:00.',
  ),
  v.check((time) => isRealDay(time.slice(0, 10)), 'There is no such day. Check the day and the month.'),
);
/** A day, `2026-10-24`. */
export const localDay = v.pipe(
  v.string(),
  v.regex(/^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])$/, 'Not a day such as 2026-10-24.'),
  v.check(isRealDay, 'There is no such day. Check the day and the month.'),
);
/** A time of day, `22:00`. */
export const clockTime = v.pipe(
  v.string(),
  v.regex(/^(?:[01]\d|2[0-3]):[0-5]\d$/, 'Not a time of day such as 22:00.'),
);
