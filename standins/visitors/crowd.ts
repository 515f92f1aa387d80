import { setTimeout as pause } from 'node:timers/promises';
import type { Answer } from '../localhost.ts';
import { send } from '../localhost.ts';

/** What a crowd of visitors is to do. */
export interface Wanted {
  /** A short address of this machine, with its source if it has one. */
  readonly link: string;
  readonly visitors: number;
  /** In how many seconds they come; 0 for as fast as they can. */
  readonly seconds: number;
  /** ISO 3166-1 alpha-2 codes, in turn drawn from; none where nobody says where they are. */
  readonly countries: readonly string[];
  /** Shares from 0 to 1: of all that are machines, and of people who buy what they are shown. */
  readonly machines: number;
  readonly buying: number;
}

/** What became of a crowd so far. */
export interface Done {
  people: number;
  machines: number;
  bought: number;
  /** Visitors who met an error or no answer, and what the last of them met. */
  failed: number;
  problem: string;
  /** When the last of them was answered, in milliseconds since 1970 UTC. */
  at: number;
}

/** How a server learns where a visitor is; undefined where it believes no proxy on this machine. */
export interface Believed {
  /** The header that names the country; empty where none is believed. */
  readonly countryHeader: string;
}

const systems = [
  'Windows NT 10.0; Win64; x64',
  'Macintosh; Intel Mac OS X 10_15_7',
  'X11; Linux x86_64',
  'Linux; Android 10; K',
];
const robots = ['Examplebot/1.0 (+https://robot.example/about)', 'curl/8.5.0', 'python-requests/2.31.0'];
/** Machines that call themselves a browser do so with few names. */
const posing = [139, 140].map(
  (version) => `Mozilla/5.0 (X11; Linux x86_64; rv:${version}.0) Gecko/20100101 Firefox/${version}.0`,
);
const languages = ['en-GB,en;q=0.9', 'de-DE,de;q=0.9', 'fr-FR,fr;q=0.8', 'en-US,en;q=0.9'];
/** As many redirects as a browser follows. */
const mostHops = 20;
/** As many are on their way at once. */
const mostAtOnce = 40;

const pick = <T>(list: readonly [T, ...T[]] | readonly T[], random: () => number): T | undefined =>
  list[Math.floor(random() * list.length)];

const browser = (random: () => number): string => {
  const version = 120 + Math.floor(random() * 28);
  const system = pick(systems, random) ?? '';
  const mobile = system.includes('Android') ? ' Mobile' : '';
  return `Mozilla/5.0 (${system}) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/${version}.0.0.0${mobile} Safari/537.36`;
};

/** An address set apart for measuring (RFC 2544), so that it is nobody's. */
const anAddress = (random: () => number): string => {
  const part = () => Math.floor(random() * 254) + 1;
  return `198.${random() < 0.5 ? 18 : 19}.${part()}.${part()}`;
};

/** Follows redirects, and the refresh of a page that sends on by itself, to the page where they end. */
const follow = async (
  link: string,
  headers: Readonly<Record<string, string>>,
): Promise<{ readonly url: string; readonly answer: Answer }> => {
  let url = link;
  // What a proxy says of its visitor is said to the first server alone.
  let sent = headers;
  for (let hops = 0; hops < mostHops; hops++) {
    const answer = await send(url, { headers: sent });
    const refresh = /http-equiv="refresh" content="\d+;url=([^"]+)"/
      .exec(answer.body)?.[1]
      ?.replaceAll('&amp;', '&');
    const next = answer.headers.location ?? refresh;
    if (answer.status >= 400) throw new Error(`${new URL(url).host} answered ${answer.status}`);
    if (next === undefined) return { url, answer };
    url = new URL(next, url).href;
    const { 'User-Agent': agent = '', 'Accept-Language': language = '' } = headers;
    sent = { 'User-Agent': agent, ...(language !== '' && { 'Accept-Language': language }) };
  }
  throw new Error(`${new URL(link).host} led in circles`);
};

/** Orders what a shop's page shows, with the cookies it set. */
const order = async (url: string, { headers, body }: Answer, agent: string): Promise<boolean> => {
  const product = /name="product" value="([^"]+)"/.exec(body)?.[1];
  if (product === undefined) return false;
  const cookies = (headers['set-cookie'] ?? []).map((cookie) => cookie.replace(/;.*$/s, '')).join('; ');
  const answer = await send(
    new URL('/order', url).href,
    {
      method: 'POST',
      headers: {
        'User-Agent': agent,
        'Content-Type': 'application/x-www-form-urlencoded',
        Cookie: cookies,
      },
    },
    new URLSearchParams({ product }).toString(),
  );
  return answer.status === 200;
};

/**
 * Visitors who open a short link over real HTTP, each as a browser of their own: people go on to the shop and some of them buy; of the
 * machines half say what they are, and half call themselves one of two browsers and name no language.
 */
export class Crowd {
  readonly done: Done = { people: 0, machines: 0, bought: 0, failed: 0, problem: '', at: 0 };
  /** True until the last of them was answered. */
  running = true;
  #stopped = false;

  constructor(
    readonly wanted: Wanted,
    readonly believed: Believed | undefined,
    readonly random: () => number = Math.random,
  ) {}

  /** Lets no more of them come; those on their way arrive. */
  stop(): void {
    this.#stopped = true;
  }

  /** Lets them come; resolves when the last was answered. Whoever fails is counted, and stops nobody. */
  async run(): Promise<void> {
    const { visitors, seconds } = this.wanted;
    const began = Date.now();
    const onTheirWay = new Set<Promise<void>>();
    for (let i = 0; i < visitors && !this.#stopped; i++) {
      const wait = began + (i * seconds * 1000) / visitors - Date.now();
      if (wait > 0) await pause(wait);
      if (onTheirWay.size >= mostAtOnce) await Promise.race(onTheirWay);
      const visit = this.#visit().catch((error: unknown) => {
        this.done.failed += 1;
        this.done.problem = error instanceof Error ? error.message : String(error);
      });
      onTheirWay.add(visit);
      void visit.then(() => onTheirWay.delete(visit));
    }
    await Promise.all(onTheirWay);
    this.running = false;
  }

  async #visit(): Promise<void> {
    const { done, random, wanted, believed } = this;
    const isMachine = random() < wanted.machines;
    const isPosing = isMachine && random() < 0.5;
    const agent = !isMachine ? browser(random) : (pick(isPosing ? posing : robots, random) ?? '');
    const language = isMachine ? '' : (pick(languages, random) ?? '');
    const country = pick(wanted.countries, random);
    const headers = {
      'User-Agent': agent,
      ...(language !== '' && { 'Accept-Language': language }),
      ...(believed && { 'X-Forwarded-For': anAddress(random) }),
      ...(believed && believed.countryHeader !== '' && country && { [believed.countryHeader]: country }),
    };
    if (isMachine) {
      const { status } = await send(wanted.link, { headers });
      if (status >= 400) throw new Error(`${new URL(wanted.link).host} answered ${status}`);
      done.machines += 1;
    } else {
      const { url, answer } = await follow(wanted.link, headers);
      done.people += 1;
      if (random() < wanted.buying && (await order(url, answer, agent))) done.bought += 1;
    }
    done.at = Date.now();
  }
}
