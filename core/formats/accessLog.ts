/** A request as a web server wrote it down. */
export interface LoggedRequest {
  /** Milliseconds since 1970 UTC; most logs know whole seconds only. */
  readonly at: number;
  /** The visitor's address, as text. */
  readonly address: string;
  readonly method: string;
  /** What was asked for, with its query, such as `/saturn-kit?from=flyer`. */
  readonly target: string;
  readonly status: number;
  /** The host that was asked; empty where the log does not say. */
  readonly host: string;
  readonly referrer: string;
  readonly ua: string;
  /** What the browser asks for; empty where the log does not say. */
  readonly language: string;
}

/** How an access log is written: Apache's and nginx's *combined*, W3C's *extended*, or an object a line. */
export type LogForm = 'combined' | 'extended' | 'json';

/** What a line of a log is. */
export type LogLine =
  | { readonly kind: 'request'; readonly request: LoggedRequest }
  /** A comment, a heading, an empty line, or something that is no request. */
  | { readonly kind: 'none' }
  | { readonly kind: 'unread'; readonly why: string };

const none: LogLine = { kind: 'none' };
const unread = (why: string): LogLine => ({ kind: 'unread', why });

const months: Readonly<Record<string, number>> = {
  ...{ Jan: 0, Feb: 1, Mar: 2, Apr: 3, May: 4, Jun: 5 },
  ...{ Jul: 6, Aug: 7, Sep: 8, Oct: 9, Nov: 10, Dec: 11 },
};
const minuteMs = 60_000;

/** Nothing begins with it, so the first moment is read whole. */
let lastMinute = '\0';
let lastZone = '';
let lastMinuteAt = 0;
/** The same, where the minute is that of the moment before: the lines of a log lie close to each other. */
const commonTime = (text: string): number | undefined => {
  const second = Number(text.slice(18, 20));
  if (text.startsWith(lastMinute) && text.endsWith(lastZone) && isTwoDigits(text, 18) && second < 60)
    return lastMinuteAt + second * 1000;
  const at = readCommonTime(text);
  if (at === undefined || second > 59) return at;
  lastMinute = text.slice(0, 18);
  lastZone = text.slice(20);
  lastMinuteAt = at - second * 1000;
  return at;
};
const isTwoDigits = (text: string, at: number): boolean => {
  const [a, b] = [text.charCodeAt(at) - 48, text.charCodeAt(at + 1) - 48];
  return a >= 0 && a < 10 && b >= 0 && b < 10 && text.length === 26;
};
/** `10/Oct/2000:13:55:36 -0700` in milliseconds since 1970 UTC; undefined where it is no such moment. */
const readCommonTime = (text: string): number | undefined => {
  const [, day, name = '', year, hour, minute, second, sign, zoneHours, zoneMinutes] =
    /^(\d{2})\/([A-Z][a-z]{2})\/(\d{4}):(\d{2}):(\d{2}):(\d{2}) ([+-])(\d{2})(\d{2})$/.exec(text) ?? [];
  const month = months[name];
  if (month === undefined) return undefined;
  const local = Date.UTC(Number(year), month, Number(day), Number(hour), Number(minute), Number(second));
  if (new Date(local).getUTCDate() !== Number(day) || Number(hour) > 23) return undefined;
  const offset = (Number(zoneHours) * 60 + Number(zoneMinutes)) * minuteMs;
  return sign === '-' ? local + offset : local - offset;
};

/** What servers write for bytes that would break a line: `\"`, `\\`, `\t`, `\x22`; read as UTF-8. */
const unescaped = (text: string): string => {
  if (!text.includes('\\')) return text;
  const bytes = text.replace(/\\(?:x([0-9A-Fa-f]{2})|(.))/gs, (_, hex?: string, letter = '') => {
    if (hex !== undefined) return `%${hex}`;
    return encodeURIComponent(
      { n: '\n', r: '\r', t: '\t', b: '\b', f: '\f', v: '\v' }[letter as string] ?? letter,
    );
  });
  try {
    return bytes.replace(/(?:%[0-9A-Fa-f]{2})+/g, (run) => decodeURIComponent(run));
  } catch {
    // Bytes that are no UTF-8 are read one by one.
    return text.replace(/\\x([0-9A-Fa-f]{2})/g, (_, hex: string) =>
      String.fromCharCode(Number.parseInt(hex, 16)),
    );
  }
};
/** A field that is not there stands as `-`. */
const field = (text: string | undefined): string =>
  text === undefined || text === '-' ? '' : unescaped(text);

const quoted = String.raw`"((?:[^"\\]|\\.)*)"`;
/**
 * `%h %l %u %t "%r" %>s %b "%{Referer}i" "%{User-Agent}i"`, with the asked host and port in front where the server writes it, and whatever
 * a person added behind (Apache HTTP Server documentation, *Log Files*; nginx writes the same).
 */
const combinedLine = new RegExp(
  String.raw`^(?:(\S+?)(?::\d+)? )?(?!- )(\S+) \S+ [^[]+ \[([^\]]+)\] ${quoted} (\d{3}|-) (?:\d+|-)(?: ${quoted} ${quoted})?`,
);
/** Method and target of `GET /saturn-kit HTTP/1.1`; undefined where it is no request. */
const requestIn = (line: string): readonly [method: string, target: string] | undefined => {
  const first = line.indexOf(' ');
  const second = line.indexOf(' ', first + 1);
  const version = second < 0 ? '' : line.slice(second + 1);
  const target = second < 0 ? line.slice(first + 1) : line.slice(first + 1, second);
  const isRequest =
    /^[A-Z]+$/.test(line.slice(0, Math.max(first, 0))) &&
    target !== '' &&
    !/\s/.test(target) &&
    (second < 0 || /^HTTP\/[\d.]+$/.test(version));
  return isRequest ? [line.slice(0, first), target] : undefined;
};

const readCombined = (line: string): LogLine => {
  const found = combinedLine.exec(line);
  if (!found) return unread('It is not written as a combined log line is; it may be cut off.');
  const [, host = '', address = '', time = '', asked = '', status = '', referrer, ua] = found;
  const at = commonTime(time);
  if (at === undefined) return unread(`${time} is no time such as 24/Oct/2026:08:00:00 +0200.`);
  if (ua === undefined)
    return unread(
      'It has no user agent: without one people cannot be told from machines. Log in the combined form.',
    );
  const [method = '', target = ''] = requestIn(unescaped(asked)) ?? [];
  // Noise of scanners, which is no request.
  if (method === '' || status === '-') return none;
  return {
    kind: 'request',
    request: {
      ...{ at, address, method, target, host, language: '' },
      status: Number(status),
      referrer: field(referrer),
      ua: field(ua),
    },
  };
};

/** What a path holds that is written plainly, up to its query or its end. */
const plainPath = /[a-z0-9._/-]*(?=[? ])/iy;
/**
 * The path a combined line asks for, in lower case and without its first `/` and a last one, found without reading the rest of the line:
 * most lines of a site's log ask for none of its links. Undefined where the line names a host, or the path is written in any way that
 * may mean something else.
 */
export const plainPathIn = (line: string): string | undefined => {
  // Address, then the name that nobody sends.
  if (!line.startsWith(' - ', line.indexOf(' '))) return undefined;
  const asked = line.indexOf('] "');
  const target = line.indexOf(' /', asked);
  if (asked < 0 || target < 0 || target > asked + 10) return undefined;
  plainPath.lastIndex = target + 2;
  return plainPath.exec(line)?.[0].toLowerCase().replace(/\/$/, '');
};

/** Parts of an extended line: split by spaces, texts in quotes with `""` for one. */
const extendedParts = (line: string): string[] =>
  line.includes('"')
    ? [...line.matchAll(/"((?:[^"]|"")*)"|(\S+)/g)].map(
        ([, text, bare = '']) => text?.replaceAll('""', '"') ?? bare,
      )
    : line.split(/[ \t]+/);

const extendedNeeds = ['c-ip', 'cs-method', 'sc-status', 'cs(User-Agent)'] as const;

/** `2026-10-24 08:00:00`, or `24-Oct-2026 08:00:00` as the draft's own example has it, as `2026-10-24`. */
const dayOfHeading = (text: string): string => {
  const [, day = '', name = '', year = ''] = /^(\d{2})-([A-Z][a-z]{2})-(\d{4})/.exec(text) ?? [];
  const month = months[name];
  return month === undefined ? text.slice(0, 10) : `${year}-${String(month + 1).padStart(2, '0')}-${day}`;
};

/** Reads W3C's extended form (*Extended Log File Format*, W3C WD-logfile-960323): its `#Fields` say what stands where, in UTC. */
class ExtendedReader {
  #fields: readonly string[] | undefined;
  #date = '';

  read(line: string): LogLine {
    if (line.startsWith('#')) {
      const [, name = '', text = ''] = /^#([A-Za-z-]+):\s*(.*)$/.exec(line) ?? [];
      if (name.toLowerCase() === 'fields') this.#fields = text.trim().split(/\s+/);
      if (name.toLowerCase() === 'date') this.#date = dayOfHeading(text);
      return none;
    }
    const fields = this.#fields;
    if (!fields) return unread('No line #Fields stands before it, which says what its parts are.');
    const missing = extendedNeeds.filter((name) => !fields.includes(name));
    if (missing.length > 0) return unread(`#Fields has no ${missing.join(', ')}.`);
    const parts = extendedParts(line);
    if (parts.length !== fields.length)
      return unread(`It has ${parts.length} parts and #Fields ${fields.length}; it may be cut off.`);
    const part = (name: string): string => {
      const text = parts[fields.indexOf(name)] ?? '';
      return text === '-' ? '' : text;
    };
    const time = `${part('date') || this.#date}T${part('time')}Z`;
    const at = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?Z$/.test(time) ? Date.parse(time) : NaN;
    if (Number.isNaN(at)) return unread(`${time.slice(0, -1)} is no date and time.`);
    const query = part('cs-uri-query');
    const stem = part('cs-uri-stem');
    // Some servers write a plus where a space stood.
    const text = (name: string) => (part(name).includes(' ') ? part(name) : part(name).replaceAll('+', ' '));
    return {
      kind: 'request',
      request: {
        ...{ at, address: part('c-ip'), method: part('cs-method'), status: Number(part('sc-status')) },
        target: part('cs-uri') || (query === '' ? stem : `${stem}?${query}`),
        host: (part('cs-host') || part('cs(Host)')).replace(/:\d+$/, ''),
        referrer: part('cs(Referer)'),
        ua: text('cs(User-Agent)'),
        language: text('cs(Accept-Language)'),
      },
    };
  }
}

/** Names under which servers write the same thing as JSON, the first that is there counts; *common practice*. */
const jsonNames = {
  time: ['time_iso8601', '@timestamp', 'timestamp', 'time', 'ts', 'msec', 'date', 'time_local', 'StartUTC'],
  address: ['remote_addr', 'client_ip', 'remote_ip', 'ClientHost', 'ip', 'clientip', 'remoteAddress', 'addr'],
  method: ['request_method', 'method', 'RequestMethod', 'verb'],
  target: ['request_uri', 'uri', 'RequestPath', 'url', 'path', 'target'],
  request: ['request'],
  status: ['status', 'DownstreamStatus', 'response', 'status_code', 'statusCode'],
  host: ['host', 'http_host', 'RequestHost', 'server_name', 'vhost'],
  referrer: ['http_referer', 'referer', 'referrer', 'request_Referer'],
  ua: ['http_user_agent', 'user_agent', 'userAgent', 'agent', 'request_User-Agent', 'ua'],
  language: ['http_accept_language', 'accept_language', 'language'],
} as const;

type Fields = Readonly<Record<string, unknown>>;
const isFields = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const textOf = (value: unknown): string => {
  if (typeof value === 'string') return value === '-' ? '' : value;
  if (typeof value === 'number') return String(value);
  return Array.isArray(value) ? textOf(value[0]) : '';
};

/** A moment as JSON logs have it: ISO 8601, seconds with decimals, milliseconds, or the combined form's. */
const jsonTime = (text: string): number | undefined => {
  if (/^\d{9,10}(?:\.\d+)?(?:[eE][+-]?\d+)?$/.test(text)) return Math.round(Number(text) * 1000);
  if (/^\d{13}$/.test(text)) return Number(text);
  const common = commonTime(text);
  if (common !== undefined) return common;
  // Without a zone nobody knows which moment it is.
  if (!/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(?::\d{2}(?:[.,]\d+)?)?(?:Z|[+-]\d{2}:?\d{2})$/.test(text))
    return undefined;
  const at = Date.parse(text.replace(',', '.').replace(/([+-]\d{2})(\d{2})$/, '$1:$2'));
  return Number.isNaN(at) ? undefined : at;
};

const readJson = (line: string): LogLine => {
  let all: unknown;
  try {
    all = JSON.parse(line);
  } catch {
    return unread('It is no whole JSON; it may be cut off.');
  }
  if (!isFields(all)) return unread('It is no JSON object.');
  // What was asked may stand in an object of its own, with its headers in another.
  const request = isFields(all['request']) ? all['request'] : {};
  const headers = isFields(request['headers']) ? request['headers'] : {};
  const header = (name: string): string => textOf(headers[name] ?? headers[name.toLowerCase()]);
  const value = (name: keyof typeof jsonNames): string => {
    for (const key of jsonNames[name]) {
      const text = textOf(request[key]) || textOf(all[key]);
      if (text !== '') return text;
    }
    return '';
  };
  const [method = value('method'), target = value('target')] = requestIn(value('request')) ?? [];
  const status = Number(value('status'));
  if (method === '' || target === '' || status === 0) return none;
  const time = value('time');
  const at = jsonTime(time);
  if (at === undefined)
    return unread(
      time === ''
        ? 'It says no time.'
        : `${time} is no time with its zone, such as 2026-10-24T08:00:00+02:00.`,
    );
  return {
    kind: 'request',
    request: {
      ...{ at, method, target, status },
      address: value('address'),
      host: value('host').replace(/:\d+$/, ''),
      referrer: header('Referer') || value('referrer'),
      ua: header('User-Agent') || value('ua'),
      language: header('Accept-Language') || value('language'),
    },
  };
};

/** How a log is written, by its first lines; undefined where they are none of those that are known. */
export const logFormOf = (lines: readonly string[]): LogForm | undefined => {
  const filled = lines.map((line) => line.trim()).filter((line) => line !== '');
  if (filled.some((line) => /^#fields:/i.test(line))) return 'extended';
  if (filled.some((line) => line.startsWith('{') && readJson(line).kind !== 'unread')) return 'json';
  if (filled.some((line) => combinedLine.test(line))) return 'combined';
  return undefined;
};

/** Reads the lines of a log one after the other; what a line means may rest on those before it. */
export const logReader = (form: LogForm): ((line: string) => LogLine) => {
  const extended = new ExtendedReader();
  return (line) => {
    if (line.trim() === '') return none;
    if (form === 'extended') return extended.read(line);
    return form === 'json' ? readJson(line) : readCombined(line);
  };
};
