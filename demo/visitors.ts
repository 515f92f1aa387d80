import type { Domain, Link } from '#core/catalogue';
import { send } from '../standins/index.ts';

/** A reproducible source of numbers from 0 up to 1 (mulberry32). */
export const randomFrom = (seed: number) => (): number => {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
};

const agents = [
  'Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Safari/537.36',
  'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Mobile Safari/537.36',
  'Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.1 Mobile/15E148 Safari/604.1',
  'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
];
const machine = 'Mozilla/5.0 (compatible; examplebot/2.1)';
/** First halves of addresses that the shipped table places in Germany, Japan, the Netherlands and the United States. */
const networks = ['91.64', '133.11', '193.0', '8.8', '91.65', '91.66'];
const sources = ['newsletter', 'saturn-guide', 'video-12', 'gear-list', '', 'flyer'];
const pages = ['https://nightledge.example/', 'https://nightledge.example/', ''];

const day = 86_400_000;

export interface Season {
  readonly port: number;
  readonly domain: Domain;
  readonly links: readonly Link[];
  readonly days: number;
  readonly visitorsPerDay: number;
  readonly seed: number;
  /** Sets the clock of server and stand-ins; milliseconds since 1970 UTC. */
  readonly setClock: (at: number) => void;
  /** Resolves when the postbacks on their way have arrived. */
  readonly idle: () => Promise<void>;
  readonly end: number;
}

const cookiesOf = (header: string[] | undefined): string =>
  (header ?? []).map((line) => line.split(';', 1)[0]).join('; ');

/**
 * Lets simulated people visit the links over real HTTP, day by day: through the hop to the network and the shop;
 * some order, and the network later approves or reverses.
 */
export const liveThrough = async (season: Season): Promise<void> => {
  const { port, domain, links, days, visitorsPerDay, setClock, idle, end } = season;
  const random = randomFrom(season.seed);
  const pick = <T>(list: readonly T[]): T | undefined => list[Math.floor(random() * list.length)];
  const weights = links.map((_, i) => 1 / (i + 1.5));
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  const pickLink = (): Link | undefined => {
    let at = random() * total;
    return links.find((_, i) => (at -= weights[i] ?? 0) < 0);
  };
  const toSettle: { order: string; at: number; state: string }[] = [];
  const settle = async (until: number) => {
    for (const { order, at, state } of toSettle.splice(
      0,
      toSettle.findIndex((s) => s.at > until) === -1
        ? toSettle.length
        : toSettle.findIndex((s) => s.at > until),
    )) {
      setClock(at);
      await send(
        `http://t.harrowmead.localhost:${port + 1}/console/settle`,
        { method: 'POST', headers: { 'Content-Type': 'application/x-www-form-urlencoded' } },
        `order=${order}&state=${state}`,
      );
      await idle();
    }
  };

  let orders = 0;
  for (let n = days; n > 0; n--) {
    const start = end - n * day;
    // A newsletter goes out on Thursdays.
    const thursday = new Date(start).getUTCDay() === 4;
    const many = Math.round(visitorsPerDay * (0.6 + random() * 0.8) * (thursday ? 1.8 : 1));
    const times = Array.from({ length: many }, () => start + random() * day * 0.98).sort((a, b) => a - b);
    for (const at of times) {
      await settle(at);
      setClock(Math.round(at));
      const link = pickLink();
      const source = thursday && random() < 0.6 ? 'newsletter' : (pick(sources) ?? '');
      const isMachine = random() < 0.08;
      const headers = {
        'User-Agent': isMachine ? machine : (pick(agents) ?? ''),
        'X-Forwarded-For': `${pick(networks) ?? ''}.${Math.floor(random() * 250)}.${Math.floor(random() * 250)}`,
        Referer: pick(pages) ?? '',
        'Accept-Language': 'en-GB,en;q=0.8',
      };
      const hop = await send(
        `http://${domain.host}:${port}/${link?.slug ?? ''}${source === '' ? '' : `~${source}`}`,
        { headers },
      );
      const tracking = hop.headers.location;
      if (isMachine || tracking === undefined || !tracking.includes('.localhost')) continue;
      const atNetwork = await send(tracking, { headers: { 'User-Agent': headers['User-Agent'] } });
      const page = atNetwork.headers.location;
      if (page === undefined || random() > 0.09) continue;
      const atShop = await send(page);
      setClock(Math.round(at + 60_000 + random() * 600_000));
      const product = new URL(page).pathname;
      await send(
        `${new URL(page).origin}/order`,
        {
          method: 'POST',
          headers: {
            'Content-Type': 'application/x-www-form-urlencoded',
            Cookie: cookiesOf(atShop.headers['set-cookie']),
          },
        },
        `product=${encodeURIComponent(product)}`,
      );
      await idle();
      const later = at + (2 + random() * 9) * day;
      if (later < end)
        toSettle.push({
          order: `HM-${881_204 + orders}`,
          at: Math.round(later),
          state: random() < 0.1 ? 'cancelled' : 'confirmed',
        });
      toSettle.sort((a, b) => a.at - b.at);
      orders += 1;
    }
  }
  await settle(end);
};
