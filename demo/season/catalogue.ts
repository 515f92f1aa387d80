import { networkRecord } from '#core/link-parts';
import type {
  Account,
  Domain,
  Kit,
  Link,
  Network,
  Product,
  Program,
  Settings,
  SourceRecord,
  Terms,
} from '#core/catalogue';
import { newDomain, sameId } from '#core/catalogue';

/** Where the simulated hosts are: `place('polehouse')` is `polehouse.localhost:4611` or `polehouse.example`. */
export type StandinAddress = (name: string) => string;

/** Everything the people of Nightledge made. */
export interface Made {
  readonly domain: Domain;
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly accounts: readonly Account[];
  readonly links: readonly Link[];
  readonly settings: Settings;
  readonly products: readonly Product[];
  readonly kits: readonly Kit[];
  readonly sources: readonly SourceRecord[];
}

/** The account Nightledge has at Harrowmead. */
export const account = 'nl-4471';
import { articleWords } from '../articles/words.ts';
import { kits, products } from './products.ts';
import { split } from './split.ts';

const day = 86_400_000;

/** Offers by program: slug, title, path at the shop. */
const offers: Readonly<Record<string, readonly (readonly [string, string, string])[]>> = {
  prg_2093: [
    ['saturn-kit', 'Saturn eyepiece kit', '/kits/saturn'],
    ['mount', 'Quiet tracking mount', '/mounts/quiet-tracking'],
    ['dew-band', 'Dew heater band', '/heaters/dew-band'],
    ['wide-24', 'Wide 24 mm eyepiece', '/eyepieces/wide-24'],
    ['moon-filter', 'Moon filter', '/filters/moon'],
    ['barlow', 'Barlow lens that keeps its colours', '/eyepieces/barlow'],
    ['planet-10', 'Planet eyepiece 10 mm', '/eyepieces/planet-10'],
    ['tripod', 'Tripod that does not shiver', '/mounts/tripod'],
    ['finder', 'Finder with a red dot', '/finders/red-dot'],
    ['case', 'Case for six eyepieces', '/cases/six'],
    ['collimator', 'Collimator', '/tools/collimator'],
    ['counterweight', 'Counterweight', '/mounts/counterweight'],
    ['diagonal', 'Star diagonal', '/eyepieces/diagonal'],
    ['cleaning', 'Cleaning set for optics', '/tools/cleaning'],
    ['solar-film', 'Film for the sun', '/filters/solar-film'],
    ['power-tank', 'Battery for a long night', '/power/tank'],
  ],
  prg_2111: [
    ['chair', 'Observing chair', '/chairs/observing'],
    ['gloves', 'Warm gloves that work a focuser', '/gloves/warm'],
    ['overboots', 'Overboots', '/boots/over'],
    ['blanket', 'Blanket for two', '/blankets/two'],
    ['flask', 'Flask that keeps until morning', '/flasks/night'],
    ['hand-warmer', 'Hand warmer', '/gloves/hand-warmer'],
    ['cap', 'Cap with ear flaps', '/caps/flaps'],
    ['mat', 'Mat to kneel on', '/mats/kneel'],
  ],
  prg_71: [
    ['star-map', 'Star chart for the pocket', '/app'],
    ['star-map-trial', 'Star charts, thirty days free', '/trial'],
    ['meteor-alerts', 'Meteor alerts', '/alerts'],
    ['sky-tonight', 'The sky tonight', '/tonight'],
    ['comet-list', 'List of comets', '/comets'],
    ['star-map-year', 'Star charts for a year', '/year'],
    ['moon-calendar', 'Calendar of the moon', '/moon'],
    ['deep-sky', 'Deep sky atlas', '/atlas'],
  ],
  prg_88: [
    ['red-lamp', 'Red torch', '/torch/red'],
    ['head-lamp', 'Red lamp for the head', '/torch/head'],
    ['desk-red', 'Red lamp for the desk', '/desk/red'],
    ['lantern', 'Lantern with a red pane', '/lantern'],
    ['bulb', 'Red bulb', '/bulb'],
    ['tent-light', 'Light for a tent', '/tent'],
  ],
  prg_93: [['print-moon', 'Print of the moon', '/prints/moon']],
  prg_umbra: [
    ['first-scope', 'First telescope', '/telescopes/first'],
    ['dobson-8', 'Eight inch on a rocker', '/telescopes/rocker-8'],
    ['dobson-10', 'Ten inch on a rocker', '/telescopes/rocker-10'],
    ['travel-scope', 'Telescope for the train', '/telescopes/travel'],
    ['refractor-80', 'Refractor of 80 mm', '/telescopes/refractor-80'],
    ['refractor-102', 'Refractor of 102 mm', '/telescopes/refractor-102'],
    ['binos', 'Binoculars 10 × 50', '/binoculars/10x50'],
    ['big-binos', 'Binoculars 15 × 70', '/binoculars/15x70'],
    ['solar-scope', 'Telescope for the sun', '/telescopes/solar'],
    ['camera', 'Camera for planets', '/cameras/planet'],
    ['guide-scope', 'Guide telescope', '/telescopes/guide'],
    ['focuser', 'Focuser with a motor', '/focusers/motor'],
    ['cover', 'Cover against rain', '/covers/rain'],
    ['scope-bag', 'Bag for a telescope', '/bags/scope'],
  ],
  prg_vennor: [
    ['vennor-atlas', 'Vennor’s printed atlas', '/atlas'],
    ['vennor-wheel', 'Vennor’s star wheel', '/wheel'],
    ['vennor-globe', 'Vennor’s moon globe', '/globe'],
    ['vennor-log', 'Vennor’s observing log', '/log'],
    ['vennor-poster', 'Vennor’s poster of nebulae', '/poster'],
  ],
};

/** How likely a visitor follows a link of a program, and buys. */
export const appeal: Readonly<Record<string, { readonly clicks: number; readonly buys: number }>> = {
  prg_2093: { clicks: 30, buys: 0.0178 },
  prg_2111: { clicks: 12, buys: 0.02 },
  prg_71: { clicks: 20, buys: 0.0186 },
  prg_88: { clicks: 14, buys: 0.022 },
  prg_93: { clicks: 0, buys: 0 },
  prg_umbra: { clicks: 18, buys: 0.0136 },
  prg_vennor: { clicks: 6, buys: 0.0255 },
  none: { clicks: 3, buys: 0 },
};

const fixed = (from: string, event: string, amount: number, currency: string): Terms => ({
  kind: 'fixed',
  from,
  event,
  amount,
  currency,
});

/** The catalogue of Nightledge, as it stands at the end of the season. */
export const nightledge = (place: StandinAddress, end: number, key: (of: string) => string): Made => {
  const domain: Domain = newDomain('dom_see', place('see.nightledge').replace(/:\d+$/, ''), 'Europe/Berlin');
  const networkOf = (name: string, id: string, setFor?: string[]): Network => {
    const network = networkRecord(name, id, { key: key(`${id} postback`), pixelKey: key(`${id} pixel`) });
    return setFor ? { ...network, postback: { ...network.postback, setFor } } : network;
  };
  const networks = [
    networkOf('Harrowmead', 'net_harrowmead'),
    // Set for the account and for an offer too, as its console has it: some fire twice.
    networkOf('Kelvane', 'net_kelvane', ['', 'prg_71']),
    networkOf('Osprenet', 'net_osprenet'),
    networkOf('Vennor Direct', 'net_vennor'),
  ];
  const begin = new Date(end - 120 * day).toISOString().slice(0, 10);
  const joined = (
    id: string,
    network: string,
    name: string,
    code: string,
    host: string,
    more: Partial<Program> = {},
  ): Program => ({
    id,
    network,
    name,
    code,
    hosts: [`${host}.localhost`, `${host}.example`],
    state: 'joined',
    ...more,
  });
  const programs: Program[] = [
    joined('prg_2093', 'net_harrowmead', 'Polehouse Optics', '2093', 'polehouse'),
    joined('prg_2111', 'net_harrowmead', 'Cindermitt', '2111', 'cindermitt'),
    joined('prg_71', 'net_kelvane', 'Wickstar Charts', '71', 'wickstar', {
      terms: [fixed(begin, 'trial', 200, 'USD'), fixed(begin, 'yearly', 1250, 'USD')],
    }),
    joined('prg_88', 'net_kelvane', 'Emberlamp', '88', 'emberlamp', {
      terms: [fixed(begin, '', 450, 'USD')],
    }),
    joined('prg_93', 'net_kelvane', 'Wickstar Prints', '93', 'wickstar'),
    joined('prg_umbra', 'net_osprenet', 'Umbra & Finch', '', 'umbrafinch'),
    joined('prg_vennor', 'net_vennor', 'Vennor Direct', '', 'vennor', {
      rules: { cloak: false, name: 'Vennor', ownLinks: false, mail: true, social: true },
      terms: [fixed(begin, '', 600, 'GBP')],
    }),
  ];
  const tags: Readonly<Record<string, readonly (readonly [string, string])[]>> = {
    net_harrowmead: [
      [account, 'Ines and Joris'],
      ['nl-5520', 'Maren'],
    ],
    net_kelvane: [['7731', 'Nightledge']],
    net_osprenet: [['nightledge', 'Nightledge']],
    net_vennor: [['NL20', 'Nightledge']],
  };
  const accounts = Object.entries(tags).flatMap(([network, list]) =>
    list.map(([tag, owner], i): Account => ({ id: `acc_${network.slice(4)}${i}`, network, tag, owner })),
  );
  const destination = (program: Program, path: string, n: number): string => {
    const shop = program.hosts[0]?.replace('.localhost', '') ?? '';
    const address = `http://${place(shop)}${path}`;
    const page = encodeURIComponent(address);
    switch (program.network) {
      case 'net_harrowmead':
        return `http://${place('t.harrowmead')}/r?by=${n % 4 === 3 ? 'nl-5520' : account}&deal=${program.code}&ref1={click}&ref2={source}&page=${page}`;
      case 'net_kelvane':
        return `http://${place('go.kelvane')}/c/7731/${program.code}?k1={click}&k2={source}&land=${page}`;
      case 'net_osprenet':
        return `http://${place('nightledge.click.osprenet')}/x?banner=&tag={click}&to=${Buffer.from(address).toString('base64url')}`;
      default:
        return `http://${place('vennor')}${path}?friend=NL20&note={click}`;
    }
  };
  const links: Link[] = programs.flatMap((program) =>
    (offers[program.id] ?? []).map(([slug, title, path], n): Link => ({
      id: `lnk_${slug.replace(/[^a-z0-9]/g, '')}`,
      domain: domain.id,
      slug,
      aliases: slug === 'saturn-kit' ? ['saturn'] : [],
      title,
      destination: destination(program, path, n),
      ...(`lnk_${slug.replace('-', '')}` === split.link && {
        branches: [
          {
            ...{ id: split.better, name: 'With a tripod', when: {}, weight: 1 },
            destination: destination(program, `${path}-with-a-tripod`, n),
          },
        ],
      }),
      asText: [],
      network: program.network,
      program: program.id,
      hop: slug === 'mount' ? { hideReferrer: true } : {},
      marks: {},
      notes:
        slug === 'saturn-kit'
          ? 'Recommended in the Saturn guide and in the newsletter of each opposition.'
          : '',
      createdAt: end - (118 - (n % 20)) * day,
      ...(articleWords[slug] && {
        keywords: articleWords[slug].map((text) => ({ text, forms: true })),
      }),
    })),
  );
  const own = (slug: string, title: string, path: string): Link => ({
    id: `lnk_${slug.replace(/[^a-z0-9]/g, '')}`,
    domain: domain.id,
    slug,
    aliases: [],
    title,
    destination: `https://club.nightledge.example/${path}`,
    asText: [],
    hop: {},
    marks: { rel: [], newTab: false },
    notes: '',
    createdAt: end - 118 * day,
  });
  links.push(
    own('loaner', 'Borrow our telescope', 'borrow'),
    own('star-night', 'Open star night', 'open-night'),
    own('mailing-list', 'The Thursday newsletter', 'newsletter'),
    own('map', 'How to find the garden', 'map'),
    own('questions', 'Ask us', 'ask'),
    own('meeting', 'Meeting of the club', 'meeting'),
    {
      ...own('first-night', 'A first night with Saturn', ''),
      destination: `http://${place('nightledge')}/?from-click={click}&from={source}`,
      notes: 'Our own page between what we advertise and the shop.',
    },
  );
  return {
    domain,
    networks,
    programs,
    accounts,
    links,
    settings: { id: 'settings', currency: 'EUR' },
    products: products(place, end),
    kits: kits(end),
    // Of the second mailing nobody said yet in which parameters its seller tells what it cost.
    sources: [
      {
        id: sameId('src', 'newsletter'),
        ...{ source: 'newsletter', title: 'The Thursday newsletter', channel: 'mail', note: '' },
      },
      {
        id: sameId('src', 'bought-a'),
        source: 'bought-a',
        title: 'The first mailing we bought',
        channel: 'bought',
        note: '',
        passes: {
          placement: 'zone',
          keyword: 'kw',
          creative: 'banner',
          cost: { parameter: 'cost', currency: 'EUR' },
        },
      },
    ],
  };
};
