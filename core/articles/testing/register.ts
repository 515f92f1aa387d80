import type { Link, LinkKeyword, Program } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { networkRecord } from '#core/link-parts';
import type { ArticleRegister } from '../index.ts';

const keys = { key: 'a'.repeat(24), pixelKey: 'b'.repeat(24) };
const programOf = (
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
  hosts: [host],
  state: 'joined',
  ...more,
});
const linkOf = (
  slug: string,
  title: string,
  destination: string,
  program: string | undefined,
  words: (string | LinkKeyword)[] = [],
  more: Partial<Link> = {},
): Link => ({
  id: `lnk_${slug.replace(/[^a-z0-9]/g, '')}`,
  domain: 'dom_see',
  slug,
  aliases: [],
  title,
  destination,
  asText: [],
  ...(program && { program, network: 'net_harrowmead' }),
  hop: {},
  marks: {},
  notes: '',
  createdAt: 1,
  ...(words.length > 0 && { keywords: words.map((text) => (typeof text === 'string' ? { text } : text)) }),
  ...more,
});
/** A tracking link to a page of Polehouse, as its network writes it. */
export const trackingLink = (page: string, code = '2093'): string =>
  `https://t.harrowmead.example/r?by=nl-4471&deal=${code}&ref1={click}&ref2={source}&page=${encodeURIComponent(page)}`;

/** What articles are looked at with in tests: some links with keywords, one archived for another, one of a shop that forbids cloaking. */
export const register = (more: Partial<ArticleRegister> = {}): ArticleRegister => ({
  domains: [newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin')],
  networks: [
    networkRecord('Harrowmead', 'net_harrowmead', keys),
    networkRecord('Vennor Direct', 'net_vennor', keys),
  ],
  programs: [
    programOf('prg_2093', 'net_harrowmead', 'Polehouse Optics', '2093', 'polehouse.example'),
    programOf('prg_gone', 'net_harrowmead', 'Cindermitt', '2111', 'cindermitt.example', {
      state: 'declined',
    }),
    programOf('prg_vennor', 'net_vennor', 'Vennor Direct', '', 'vennor.example', {
      rules: { cloak: false, name: 'Vennor', ownLinks: false, mail: true, social: true },
    }),
  ],
  accounts: [{ id: 'acc_a', network: 'net_harrowmead', tag: 'nl-4471', owner: 'Ines' }],
  links: [
    linkOf(
      'saturn-kit',
      'Saturn eyepiece kit',
      trackingLink('https://polehouse.example/kits/saturn'),
      'prg_2093',
      ['Saturn eyepiece kit'],
    ),
    linkOf('red-lamp', 'Red head torch', trackingLink('https://polehouse.example/lamps/red'), 'prg_2093', [
      { text: 'red head torch', forms: true },
      'torch',
    ]),
    linkOf('dob-8', '8-inch Dobsonian', trackingLink('https://polehouse.example/scopes/dob-8'), 'prg_2093', [
      '8-inch Dobsonian',
    ]),
    linkOf('old-map', 'Old star map', trackingLink('https://polehouse.example/maps/old'), 'prg_2093', [], {
      archived: { at: 2, to: 'lnk_starmap' },
    }),
    linkOf('star-map', 'Star map', trackingLink('https://polehouse.example/maps/new'), 'prg_2093', [
      'star chart app',
      '星図',
    ]),
    linkOf('ended', 'Ended', trackingLink('https://polehouse.example/ended'), 'prg_2093', [], {
      archived: { at: 2 },
    }),
    linkOf(
      'vennor-desk',
      'Vennor desk',
      'https://vennor.example/desk?friend=NL20&note={click}',
      'prg_vennor',
      ['Vennor desk', 'desk'],
      {
        network: 'net_vennor',
      },
    ),
  ],
  products: [],
  port: '',
  dead: new Map(),
  now: Date.UTC(2026, 10, 20),
  ...more,
});
