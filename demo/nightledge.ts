import type { Change, Link } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { knownNetworks } from '#core/anatomy';
import { changeOf } from '../server/client.ts';
import { shops } from '../standins/index.ts';

/** The account Nightledge has at the simulated network. */
export const account = 'nl-4471';

const day = 86_400_000;

const titles: Readonly<Record<string, { slug: string; title: string; aliases?: string[] }>> = {
  '/kits/saturn': { slug: 'saturn-kit', title: 'Saturn eyepiece kit', aliases: ['saturn'] },
  '/mounts/quiet-tracking': { slug: 'mount', title: 'Quiet tracking mount' },
  '/heaters/dew-band': { slug: 'dew-band', title: 'Dew heater band' },
  '/eyepieces/wide-24': { slug: 'wide-24', title: 'Wide 24 mm eyepiece' },
  '/filters/moon': { slug: 'moon-filter', title: 'Moon filter' },
  '/gloves/warm': { slug: 'gloves', title: 'Warm gloves that work a focuser' },
  '/chairs/observing': { slug: 'chair', title: 'Observing chair' },
};

/** Everything the people of Nightledge made: one domain, one network with two programs, eight links. */
export const nightledge = (port: number, keys: { postback: string; pixel: string }, now: number) => {
  const known = knownNetworks.find((network) => network.name === 'Harrowmead');
  if (!known) throw new Error('Harrowmead ships.');
  const { programs, postback, ...rest } = known;
  const domain = newDomain('dom_see', 'see.nightledge.localhost', 'Europe/Berlin');
  const network = {
    ...rest,
    id: 'net_harrowmead',
    postback: { ...postback, key: keys.postback, pixelKey: keys.pixel },
  };
  const registered = programs.map(({ code, name, hosts }) => ({
    id: `prg_${code}`,
    network: network.id,
    name,
    code,
    hosts: [...hosts],
    state: 'joined' as const,
  }));
  const links: Link[] = shops.flatMap((shop) =>
    shop.products.map((product, i) => {
      const words = titles[product.path];
      const page = encodeURIComponent(`http://${shop.host}:${port + 1}${product.path}`);
      return {
        id: `lnk_${(words?.slug ?? product.path).replace(/[^a-z0-9]/g, '')}`,
        domain: domain.id,
        slug: words?.slug ?? '',
        aliases: words?.aliases ?? [],
        title: words?.title ?? product.name,
        destination: `http://t.harrowmead.localhost:${port + 1}/r?by=${account}&deal=${shop.deal}&ref1={click}&ref2={source}&page=${page}`,
        asText: [],
        network: network.id,
        program: `prg_${shop.deal}`,
        hop: product.path === '/mounts/quiet-tracking' ? { hideReferrer: true } : {},
        marks: {},
        notes:
          product.path === '/kits/saturn'
            ? 'Recommended in the Saturn guide and in the newsletter of each opposition.'
            : '',
        createdAt: now - (80 - i * 6) * day,
      };
    }),
  );
  links.push({
    id: 'lnk_loaner',
    domain: domain.id,
    slug: 'loaner',
    aliases: [],
    title: 'Borrow our telescope',
    destination: 'https://club.nightledge.example/borrow',
    asText: [],
    hop: {},
    marks: { rel: [], newTab: false },
    notes: '',
    createdAt: now - 90 * day,
  });
  const by = 'Ines';
  const changes: Change[] = [
    changeOf('settings', { id: 'settings', currency: 'EUR' }, 1, by),
    changeOf('domain', domain, 1, by),
    changeOf('network', network, 1, by),
    ...registered.map((program) => changeOf('program', program, 1, by)),
    ...links.map((link) => changeOf('link', link, 1, by)),
  ];
  return { changes, domain, network, links };
};
