import { clickId } from '#core/hop';
import type { JournalDraft } from '#core/visits';
import { sitePages } from '../../standins/index.ts';
import { appeal } from './catalogue.ts';
import type { Made } from './catalogue.ts';
import { Chance } from './random.ts';

type Hop = Extract<JournalDraft, { kind: 'hop' }>;

/** A request and who really made it; the journal knows the first only. */
export interface Visit {
  readonly hop: Hop;
  readonly who: 'person' | 'repeat' | 'machine' | 'scanner' | 'checker' | 'test' | 'turned away' | 'burst';
}

const minute = 60_000;
const day = 86_400_000;
const browsers = {
  desktop: [
    'Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Safari/537.36',
    'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
    'Mozilla/5.0 (Macintosh; Intel Mac OS X 10_15_7) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.1 Safari/605.1.15',
  ],
  phone: [
    'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Mobile Safari/537.36',
    'Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.1 Mobile/15E148 Safari/604.1',
  ],
  tablet: [
    'Mozilla/5.0 (iPad; CPU OS 18_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.1 Safari/604.1',
  ],
} as const;
const machines = [
  'Mozilla/5.0 (compatible; examplebot/2.1)',
  'examplecrawler/1.0 (+https://crawler.example/)',
  'python-requests/2.32.3',
] as const;
const checker = 'uptime-checker/4.2 (bot; +https://uptime.example/)';
const countries = [
  ['DE', 46],
  ['NL', 16],
  ['GB', 11],
  ['AT', 8],
  ['CH', 6],
  ['US', 6],
  ['JP', 4],
  ['BE', 3],
] as const;
const sources = [
  ['newsletter', 10],
  ['saturn-guide', 18],
  ['moon-guide', 9],
  ['gear-list', 14],
  ['video-12', 9],
  ['video-9', 5],
  ['podcast', 3],
  ['forum', 4],
  ['archive', 6],
  ['', 8],
] as const;
/** Requests by weekday, from Sunday, and by hour of the day in Berlin. */
const weekdays = [1.25, 0.85, 0.85, 0.9, 1, 1.05, 1.2];
const hours = [2, 1, 1, 1, 1, 1, 2, 3, 4, 4, 4, 5, 6, 5, 4, 5, 6, 7, 9, 11, 12, 11, 7, 4];

/** Machines stand in hosting networks for the most part, and few people come through one; it follows from the visitor, so that chance is not asked. */
const isHosted = (who: Visit['who'], visitor: string): boolean => {
  const share = Number.parseInt(visitor.slice(8, 10), 16) / 256;
  return share < (['machine', 'scanner', 'checker', 'burst'].includes(who) ? 0.9 : 0.03);
};

export interface PeopleInput {
  readonly made: Made;
  readonly seed: number;
  /** Midnight UTC after the last day; milliseconds since 1970 UTC. */
  readonly end: number;
  readonly days: number;
  /** About how many. */
  readonly requests: number;
  readonly version: number;
  /** Scheme and host of their own site. */
  readonly site: string;
}

/** Links that are asked for by other ways than the usual visits. */
const rarelyAsked: ReadonlySet<string> = new Set(['print-moon', 'first-night']);
const publishedPages = sitePages('', '');
/** The page a visitor came from, as far as the browser says: half of them name the site alone. */
const pageOfVisit = (site: string, slug: string, visitor: string): string => {
  const page = publishedPages.find(({ body }) => body.text.includes(`"/${slug}~`));
  return page && /^[0-7]/.test(visitor) ? site + page.path : `${site}/`;
};

/** Everybody and everything that asked for a link, in the order of time. */
export const people = ({ made, seed, end, days, requests, version, site }: PeopleInput): Visit[] => {
  const chance = new Chance(seed);
  const { domain, links } = made;
  const cloaked = links.filter((link) => link.network !== 'net_vennor' && !rarelyAsked.has(link.slug));
  const weightOf = (n: number, program: string | undefined) =>
    (appeal[program ?? 'none']?.clicks ?? 1) / (n + 1.6);
  const rank = new Map<string, number>();
  const weighted = cloaked.map((link) => {
    const n = rank.get(link.program ?? '') ?? 0;
    rank.set(link.program ?? '', n + 1);
    return [link, weightOf(n, link.program)] as const;
  });
  const visits: Visit[] = [];
  const slugs = new Map(links.map(({ id, slug }) => [id, slug]));
  const begin = end - days * day;

  const visitorOf = () => ({
    visitor: chance.hex(16),
    country: chance.weighted(countries),
    device: chance.weighted([
      ['phone', 52],
      ['desktop', 41],
      ['tablet', 7],
    ] as const),
  });
  /** What the seller of a source passes along with a visit; it follows from the visitor, so that chance is not asked. */
  const sold = (source: string, visitor: string): string => {
    const [zone = 0, words = 0, banner = 0, price = 0] = [0, 2, 4, 6].map((from) =>
      Number.parseInt(visitor.slice(from, from + 2), 16),
    );
    if (source === 'bought-a')
      return `zone=${204 + (zone % 9)}&kw=${['best+telescope', 'moon+map', 'star+chart', 'binoculars'][words % 4]}&banner=${['saturn', 'night-walk'][banner % 2]}&cost=0.${180 + (price % 90)}`;
    if (source === 'bought-b') return `site=s${11 + (zone % 6)}&cpc=0.0${45 + (price % 30)}`;
    return '';
  };
  const put = (
    who: Visit['who'],
    at: number,
    link: string,
    source: string,
    more: Partial<Hop> & { readonly visitor: string },
  ) => {
    const prefetch = more.prefetch ?? false;
    const whole = Math.round(at);
    const device = more.device ?? 'desktop';
    visits.push({
      who,
      hop: {
        kind: 'hop',
        at: whole,
        click: prefetch ? '' : clickId(whole, chance.bytes(10)),
        link,
        version,
        branch: 'everyone',
        source,
        status: prefetch ? 503 : 307,
        method: 'GET',
        host: domain.host,
        ua: chance.pick(browsers[device] as unknown as readonly [string, ...string[]]),
        country: 'DE',
        device,
        from:
          source === '' || chance.chance(0.25) ? '' : pageOfVisit(site, slugs.get(link) ?? '', more.visitor),
        query: sold(source, more.visitor),
        lang: 'de-DE',
        prefetch,
        test: false,
        hosting: isHosted(who, more.visitor),
        ...more,
      },
    });
  };
  const atHour = (start: number): number => {
    const hour = chance.weighted(hours.map((weight, n) => [n, weight] as const));
    // Berlin is an hour or two ahead of UTC; which of the two matters little here.
    return start + ((hour + 22.5) % 24) * 3_600_000 + chance.next() * 3_600_000;
  };
  const visit = (at: number, source: string) => {
    const link = chance.weighted(weighted);
    const who = visitorOf();
    if (at >= end) return;
    put('person', at, link.id, source, who);
    if (chance.chance(0.14)) {
      const later = at + minute * (0.2 + chance.next() * 24);
      if (later < end && Math.floor(later / day) === Math.floor(at / day))
        put('repeat', later, link.id, source, who);
    }
  };

  // How many of the requests are plain visitors; the rest are the events and machines below.
  const perDay = (requests * 0.735) / days / 1.13;
  const picked = Math.floor(days * 0.42);
  const flyer = Math.floor(days * 0.63);
  const [boughtGood, boughtBad] = [Math.floor(days * 0.3), Math.floor(days * 0.72)];
  for (let n = 0; n < days; n++) {
    const start = begin + n * day;
    const weekday = new Date(start).getUTCDay();
    const factor = (weekdays[weekday] ?? 1) * (0.85 + chance.next() * 0.3);
    for (let i = perDay * factor; i > 0; i--) visit(atHour(start), chance.weighted(sources));
    // The newsletter goes out on Thursdays at 17:00; half of its readers come within four hours. Mail scanners come first.
    if (weekday === 4) {
      const sent = start + 16 * 3_600_000;
      for (let i = perDay * 0.55; i > 0; i--)
        visit(
          sent + Math.min(30, -Math.log(1 - chance.next()) * 6) * 3_600_000,
          // In the last two mails one of the links has a slip in its source.
          n > days - 15 && i < 4 ? 'newsleter' : 'newsletter',
        );
      for (let i = perDay * 0.22; i > 0; i--)
        put('scanner', sent + chance.next() * 5 * minute, chance.weighted(weighted).id, 'newsletter', {
          ...visitorOf(),
          prefetch: true,
        });
    }
    // One article was picked up elsewhere.
    if (n >= picked && n < picked + 3)
      for (let i = perDay * (1.6 - (n - picked) * 0.5); i > 0; i--)
        visit(start + chance.next() * day * 0.99, 'saturn-guide');
    // Flyers of an open star night.
    if (n === flyer)
      for (let i = perDay * 0.4; i > 0; i--) {
        const at = start + (17 + chance.next() * 4) * 3_600_000;
        put(
          'person',
          at,
          chance.pick(['lnk_starnight', 'lnk_redlamp', 'lnk_firstscope', 'lnk_starmap']),
          'flyer',
          {
            ...visitorOf(),
            device: 'phone',
          },
        );
      }
    // Two mailings were bought; the second was opened by machines for the most part.
    if (n === boughtGood)
      for (let i = perDay * 0.5; i > 0; i--) visit(start + (8 + chance.next() * 10) * 3_600_000, 'bought-a');
    if (n === boughtBad)
      for (let i = perDay * 0.8; i > 0; i--) {
        const at = start + (9 + chance.next() * 3) * 3_600_000;
        if (chance.chance(0.15)) visit(at, 'bought-b');
        else
          put('machine', at, chance.weighted(weighted).id, 'bought-b', {
            ...visitorOf(),
            ua: chance.pick(machines),
          });
      }
    for (let i = perDay * 0.09; i > 0; i--)
      put('machine', start + chance.next() * day, chance.weighted(weighted).id, '', {
        visitor: chance.hex(16),
        ua: chance.pick(machines),
      });
    // Somebody watches whether the server answers.
    const every = Math.max(1, Math.round(perDay * 0.06));
    const watcher = chance.hex(16);
    for (let i = 0; i < every; i++)
      put('checker', start + ((i + 0.5) / every) * day, 'lnk_saturnkit', '', {
        visitor: watcher,
        ua: checker,
        method: 'HEAD',
      });
    if (chance.chance(0.4))
      put('test', (atHour(start) % day) + start, chance.weighted(weighted).id, '', {
        ...visitorOf(),
        test: true,
      });
    // Vennor forbids cloaking: its clicks are told by the page.
    for (let i = perDay * factor * 0.055; i > 0; i--) {
      const link = chance.pick([
        'lnk_vennoratlas',
        'lnk_vennorwheel',
        'lnk_vennorglobe',
        'lnk_vennorlog',
        'lnk_vennorposter',
      ]);
      put('person', atHour(start), link, chance.pick(['saturn-guide', 'moon-guide', 'gear-list']), {
        ...visitorOf(),
        branch: 'page',
      });
    }
  }
  // A print hardly anybody asks for: two clicks, seven weeks apart.
  for (const share of [0.12, 0.68])
    put(
      'person',
      begin + Math.floor(days * share) * day + 12.3 * 3_600_000,
      'lnk_printmoon',
      'archive',
      visitorOf(),
    );
  // The trial offer of the star night is over, and some read its flyer all the same.
  for (let i = 0; i < 14; i++)
    put('turned away', begin + (flyer + 2 + i * 0.9) * day, 'lnk_starmaptrial', 'flyer', {
      ...visitorOf(),
      device: 'phone',
      status: 200,
      branch: 'after',
    });
  // Something that calls itself a browser asks for everything within seconds.
  const hasty = visitorOf();
  for (let i = 0; i < 34; i++)
    put(
      'burst',
      begin + Math.floor(days * 0.5) * day + 9 * 3_600_000 + i * 230,
      chance.weighted(weighted).id,
      '',
      {
        ...hasty,
        device: 'desktop',
      },
    );
  // The mail of another club leads to a page of their own; some of its readers go on from there.
  for (let i = perDay * 1.3; i > 0; i--) {
    const start = begin + Math.floor(days * (0.7 + chance.next() * 0.3)) * day;
    const [at, who] = [atHour(start), { ...visitorOf(), from: '' }];
    put('person', at, 'lnk_firstnight', 'club-mail', who);
    const landed = visits.at(-1)?.hop;
    if (landed && chance.chance(0.38))
      put(
        'person',
        at + (12 + chance.next() * chance.next() * 400) * 1000,
        chance.weighted([
          ['lnk_saturnkit', 5],
          ['lnk_redlamp', 3],
        ] as const),
        'club-mail',
        { ...who, ua: landed.ua, first: landed.click, from: `${site}/` },
      );
    else if (landed && chance.chance(0.2)) {
      const later = at + minute * (2 + chance.next() * 24);
      if (Math.floor(later / day) === Math.floor(at / day))
        put('repeat', later, 'lnk_firstnight', 'club-mail', { ...who, ua: landed.ua });
    }
  }
  // Before anybody reads a mailing, gateways of some readers look at what its links lead to, and call themselves browsers.
  for (let n = 0; n < days; n++) {
    const start = begin + n * day;
    if (new Date(start).getUTCDay() !== 4) continue;
    for (let i = perDay * 0.012; i > 0; i--) {
      const gateway = { ...visitorOf(), hosting: true, device: 'desktop' as const, from: '' };
      let at = start + 16 * 3_600_000 + chance.next() * 4 * minute;
      const ua = chance.pick(browsers.desktop as unknown as readonly [string, ...string[]]);
      for (const link of ['lnk_saturnkit', 'lnk_redlamp', 'lnk_starmap', 'lnk_headlamp'])
        put('scanner', (at += 300 + chance.next() * 1500), link, 'newsletter', { ...gateway, ua });
    }
  }
  return visits
    .filter(({ hop }) => hop.at >= begin && hop.at < end)
    .sort((a, b) => a.hop.at - b.hop.at || (a.hop.click < b.hop.click ? -1 : 1));
};
