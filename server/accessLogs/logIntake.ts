import { hash, randomBytes } from 'node:crypto';
import type { LoggedRequest, LogForm } from '#core/formats';
import { logFormOf, logReader, plainPathIn } from '#core/formats';
import { cameBy, cameFrom, clickId, deviceOf, fromLog, readTarget } from '#core/hop';
import type { LogReport, VisitColumns } from '#core/visits';
import type { Host, LinkTable } from '../feed/index.ts';
import { answering } from '../feed/index.ts';
import type { CountryOf } from '../http/country.ts';
import type { IsHosting } from '../http/hosting.ts';
import { hopLine } from '../http/hopLine.ts';
import { wantedLanguage } from '../http/language.ts';
import { withoutOrigin } from '../http/reserved.ts';
import { visitorAddress } from '../http/visitor.ts';
import { AnsweredHere } from './answeredHere.ts';
import { Occurrences } from './occurrences.ts';
import { ownCopy, Tally } from './tally.ts';

export interface IntakeParts {
  readonly table: LinkTable;
  /** The requests the journal has already. */
  readonly columns: VisitColumns;
  /** Requests before this moment (milliseconds since 1970 UTC) are daily counts. */
  readonly rolledUpBefore: number;
  readonly countryOf: CountryOf;
  readonly isHosting: IsHosting;
  readonly testToken: string;
  /** The domain of lines that name no host; empty where they do, or where there is one domain alone. */
  readonly host: string;
  /** Whether the same may come again in another file of this reading. */
  readonly severalFiles: boolean;
  readonly now: () => number;
}

const dayMs = 86_400_000;
/** Longest line that is read; what is longer is no request. */
const longestLine = 64 * 1024;
/** By so many lines, at most, it is told how a log is written. */
const linesToTell = 200;
const mostShown = 20;
const shownLength = 300;
/** A header's text as Node gives it, which reads its bytes as Latin-1 (`message.headers`). */
const asSeenByNode = (text: string): string =>
  /^[\x20-\x7e]*$/.test(text) ? text : Buffer.from(text, 'utf8').toString('latin1');
const isStatus = (status: number): boolean => Number.isInteger(status) && status >= 100 && status <= 599;
const cut = (text: string, most: number): string => (text.length > most ? text.slice(0, most) : text);

/** The file that is read at the moment. */
interface OpenFile {
  readonly name: string;
  form: LogForm | undefined;
  problem: string | undefined;
}

/**
 * Reads access logs and makes lines of the journal of the requests for links of ours that are not in it yet. Visitors' addresses are
 * used for country and visitor and go nowhere: a visitor is known for a day of this reading, by a salt that ends with it.
 */
export class LogIntake {
  readonly #parts: IntakeParts;
  readonly #salt = randomBytes(32).toString('base64url');
  readonly #answeredHere: AnsweredHere;
  readonly #seen = new Occurrences();
  /** Click IDs of requests in the files before this one, and of those in this one; only where several files are read. */
  readonly #before = new Set<string>();
  #made: string[] = [];
  readonly #onlyHost: Host | undefined;
  readonly #files: OpenFile[] = [];
  #read: ReturnType<typeof logReader> | undefined;
  /** Lines that wait until it is known how the log is written. */
  #waiting: string[] = [];
  #rest = '';
  /** The rest of a line that is too long is passed over. */
  #isPassing = false;
  #lineOfFile = 0;
  #lines = 0;
  #none = 0;
  #known = 0;
  #noHost = 0;
  #rolledUp = 0;
  #from = Infinity;
  #until = -Infinity;
  readonly #fresh = new Tally();
  readonly #noLink = new Tally();
  readonly #otherHosts = new Tally();
  #unread = 0;
  readonly #firstUnread: LogReport['unread']['first'][number][] = [];
  #out: string[] = [];

  constructor(parts: IntakeParts) {
    this.#parts = parts;
    this.#answeredHere = new AnsweredHere(parts.columns);
    const { hosts } = parts.table;
    this.#onlyHost = parts.host === '' && hosts.size === 1 ? [...hosts.values()][0] : hosts.get(parts.host);
  }

  /** Begins another file. */
  beginFile(name: string): void {
    this.#files.push({ name, form: undefined, problem: undefined });
    this.#read = undefined;
    this.#waiting = [];
    this.#rest = '';
    this.#isPassing = false;
    this.#lineOfFile = 0;
    this.#seen.forget();
    for (const click of this.#made) this.#before.add(click);
    this.#made = [];
  }

  /**
   * Takes the next piece of the file.
   *
   * @returns what of it is to be written down: records of the journal, less their first brace and `seq`
   */
  take(text: string): string[] {
    const lines = (this.#rest + text).split('\n');
    this.#rest = lines.pop() ?? '';
    for (const line of lines) {
      if (this.#isPassing) this.#isPassing = false;
      else this.#takeLine(line.endsWith('\r') ? line.slice(0, -1) : line);
    }
    if (this.#rest.length > longestLine) {
      if (!this.#isPassing) this.#takeLine(this.#rest);
      this.#isPassing = true;
      this.#rest = '';
    }
    return this.#taken();
  }

  /** Ends the file; gives what of its last line is to be written down. */
  endFile(): string[] {
    if (this.#rest !== '' && !this.#isPassing) this.#takeLine(this.#rest);
    this.#rest = '';
    if (!this.#read) this.#tellForm();
    return this.#taken();
  }

  /** Gives up a file of which the rest cannot be had. */
  failFile(problem: string): void {
    const file = this.#files.at(-1);
    if (file) file.problem = problem;
  }

  get report(): LogReport {
    const fresh = this.#fresh.told;
    return {
      files: this.#files.map((file) => ({ ...file })),
      lines: this.#lines,
      fresh,
      from: fresh.count > 0 ? this.#from : 0,
      until: fresh.count > 0 ? this.#until : 0,
      known: this.#known,
      noLink: this.#noLink.told,
      otherHosts: this.#otherHosts.told,
      noHost: this.#noHost,
      rolledUp: this.#rolledUp,
      none: this.#none,
      unread: { count: this.#unread, first: this.#firstUnread },
    };
  }

  #taken(): string[] {
    const out = this.#out;
    this.#out = [];
    return out;
  }

  #takeLine(line: string): void {
    const file = this.#files.at(-1);
    if (!file || file.problem !== undefined) return;
    if (this.#read) {
      this.#lineOfFile += 1;
      this.#lines += 1;
      this.#readLine(file, line);
      return;
    }
    this.#waiting.push(line);
    if (this.#waiting.length >= linesToTell) this.#tellForm();
  }

  /** Finds out how the log is written, and reads what waited for that. */
  #tellForm(): void {
    const file = this.#files.at(-1);
    if (!file || file.problem !== undefined) return;
    const waiting = this.#waiting;
    this.#waiting = [];
    const form = logFormOf(waiting);
    if (form === undefined) {
      const first = waiting.find((line) => line.trim() !== '');
      file.problem =
        first === undefined
          ? 'There is no line in it.'
          : `It is no access log in combined, W3C extended or JSON form. It begins with: ${cut(first, 120)}`;
      return;
    }
    file.form = form;
    this.#read = logReader(form);
    for (const line of waiting) this.#takeLine(line);
  }

  #readLine(file: OpenFile, line: string): void {
    if (line.length > longestLine) {
      this.#cannotRead(file, line, 'It is longer than 64 KB.');
      return;
    }
    const path = file.form === 'combined' && this.#onlyHost ? plainPathIn(line) : undefined;
    if (path !== undefined && this.#onlyHost?.links.has(path) === false) {
      this.#noLink.add(cut(`/${path}`, 200));
      return;
    }
    const read = this.#read?.(line);
    if (!read || read.kind === 'none') this.#none += 1;
    else if (read.kind === 'unread') this.#cannotRead(file, line, read.why);
    else if (!isStatus(read.request.status)) this.#cannotRead(file, line, 'It names no status such as 302.');
    else if (read.request.at > this.#parts.now() + dayMs)
      this.#cannotRead(file, line, 'Its time lies in the future.');
    else this.#takeRequest(read.request);
  }

  #cannotRead({ name }: OpenFile, line: string, why: string): void {
    this.#unread += 1;
    if (this.#firstUnread.length < mostShown)
      this.#firstUnread.push({
        file: name,
        line: this.#lineOfFile,
        text: ownCopy(cut(line, shownLength)),
        why,
      });
  }

  #takeRequest(request: LoggedRequest): void {
    const { table } = this.#parts;
    const name = request.host.toLowerCase();
    const host = name === '' ? this.#onlyHost : table.hosts.get(name);
    if (!host) {
      if (name === '') this.#noHost += 1;
      else this.#otherHosts.add(cut(name, 200));
      return;
    }
    const asked = readTarget(withoutOrigin(request.target));
    const found = asked && host.links.get(asked.path);
    // The second of two pages is no hop of its own.
    if (!found || asked.secondPage !== '' || (request.method !== 'GET' && request.method !== 'HEAD')) {
      const path = asked ? `/${asked.path}` : request.target.replace(/[?#].*$/s, '');
      this.#noLink.add(cut(path, 200));
      return;
    }
    if (request.at < this.#parts.rolledUpBefore) {
      this.#rolledUp += 1;
      return;
    }
    const link = (found.rare.archived ? answering(table, found) : undefined) ?? found;
    const ua = cut(request.ua, 512);
    const click = this.#clickOf(request, link.id);
    if (
      this.#isKnown(click) ||
      this.#answeredHere.take(request.at, link.id, cut(asSeenByNode(request.ua), 512))
    ) {
      this.#known += 1;
      return;
    }
    const came = cameBy(asked, request.referrer);
    if (this.#parts.severalFiles) this.#made.push(click);
    this.#fresh.add(link.id);
    this.#from = Math.min(this.#from, request.at);
    this.#until = Math.max(this.#until, request.at);
    const address = ownCopy(request.address);
    const hosting = this.#parts.isHosting(address);
    this.#out.push(
      hopLine({
        kind: 'hop',
        at: request.at,
        click,
        link: link.id,
        version: 0,
        branch: fromLog,
        source: came.source,
        status: request.status,
        method: request.method,
        host: host.domain.host,
        ua,
        visitor: this.#visitorOf(request, ua),
        country: this.#parts.countryOf(address),
        device: deviceOf(ua),
        from: cut(cameFrom(asked, request.referrer), 1024),
        query: cut(asked.query, 1024),
        lang: wantedLanguage(request.language),
        prefetch: false,
        test: asked.test !== '' && asked.test === this.#parts.testToken,
        ...(hosting !== undefined && { hosting }),
        ...(came.first !== '' && { first: came.first }),
      }),
    );
  }

  /**
   * The click ID of a line: its second, and a hash over what it says and how often that was said before, so that the same line is known
   * again without being kept. The visitor's address is not part of it: nobody could be found by trying addresses.
   */
  #clickOf({ at, method, target, status, referrer, ua }: LoggedRequest, link: string): string {
    const second = Math.floor(at / 1000) * 1000;
    const text = JSON.stringify([second, link, method, target, status, referrer, ua]);
    const id = (of: string) => clickId(second, hash('sha256', of, 'buffer'));
    const first = id(text);
    const before = this.#seen.see(first);
    return before === 0 ? first : id(`${text} ${before}`);
  }

  #isKnown(click: string): boolean {
    return this.#before.has(click) || this.#parts.columns.beginningWith(click).count > 0;
  }

  #visitorOf({ address, at }: LoggedRequest, ua: string): string {
    const day = Math.floor(at / dayMs);
    return hash('sha256', `${this.#salt}${day} ${visitorAddress(address)}|${ua}`, 'hex').slice(0, 16);
  }
}
