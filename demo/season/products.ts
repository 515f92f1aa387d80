import type { Kit, Product } from '#core/catalogue';
import type { StandinAddress } from './catalogue.ts';

const day = 86_400_000;

/** Products of which Nightledge has placed cards: one has become dearer since, and a coupon has ended. */
export const products = (place: StandinAddress, end: number): Product[] => {
  const dayName = (at: number) => new Date(at).toISOString().slice(0, 10);
  const made = (
    id: string,
    shop: string,
    path: string,
    program: string,
    n: number,
    more: Pick<Product, 'name' | 'code' | 'about'> & Partial<Product>,
  ): Product => ({
    id: `pro_${id}`,
    program,
    page: `http://${place(shop)}${path}`,
    picture: `http://${place(shop)}/picture.png`,
    createdAt: end - (60 - n) * day,
    ...more,
  });
  const price = (amount: number, ago: number, list?: number) => ({
    amount,
    currency: 'EUR',
    day: dayName(end - ago * day),
    ...(list !== undefined && { list }),
  });
  const placed = (source: string, amount: number, ago: number, coupon?: string) => ({
    source,
    at: end - ago * day,
    amount,
    currency: 'EUR',
    ...(coupon !== undefined && { coupon }),
  });
  return [
    made('saturnkit', 'polehouse', '/kits/saturn', 'prg_2093', 4, {
      name: 'Saturn eyepiece kit',
      code: 'PO-4100',
      about:
        'Two eyepieces and a Barlow lens in a case that survives a car boot: the cheapest way past 150×.',
      alt: 'Two eyepieces in an open case, on a garden table at night',
      price: price(17_290, 2, 18_900),
      link: 'lnk_saturnkit',
      placed: [
        placed('saturn-guide', 16_490, 41),
        placed('newsletter', 17_290, 20, 'NIGHT10'),
        placed('buyers-guide', 17_290, 2),
      ],
    }),
    made('dewband', 'polehouse', '/heaters/dew-band', 'prg_2093', 3, {
      name: 'Dew heater band',
      code: 'PO-4114',
      about: 'Keeps a lens dry until morning on the battery of a phone.',
      price: price(3490, 2),
      coupon: { code: 'DRYNIGHT', until: dayName(end + 20 * day) },
      link: 'lnk_dewband',
      placed: [placed('buyers-guide', 3490, 2, 'DRYNIGHT')],
    }),
    made('chair', 'cindermitt', '/chairs/observing', 'prg_2111', 2, {
      name: 'Observing chair',
      code: 'CI-4107',
      about: 'Sits at every height an eyepiece ever has, and folds flat.',
      price: price(12_900, 9),
      link: 'lnk_chair',
    }),
    made('gloves', 'cindermitt', '/gloves/warm', 'prg_2111', 1, {
      name: 'Warm gloves that work a focuser',
      code: 'CI-4100',
      about: 'Warm to minus ten, thin enough for a focuser.',
      price: price(4200, 9),
      link: 'lnk_gloves',
    }),
  ];
};

/** What Nightledge writes where a page cannot be. */
export const kits = (end: number): Kit[] => [
  {
    id: 'kit_saturn',
    name: 'Saturn at opposition',
    link: 'lnk_saturnkit',
    source: 'opposition-post',
    alt: '',
    text: 'Saturn is as near as it comes this year, and its rings are open. A small telescope shows them at 60×; this kit takes yours past 150×.',
    action: 'Look before the moon is back on Thursday:',
    disclosure: '(Paid link)',
    createdAt: end - 6 * day,
  },
  {
    id: 'kit_redlamp',
    name: 'Red lamp for the star night',
    link: 'lnk_redlamp',
    source: 'star-night-post',
    alt: '',
    text: 'Whoever brings a white torch to the star night sits at the back.',
    action: 'The red one we use:',
    disclosure: 'This link pays us if you buy. You pay the same.',
    createdAt: end - 12 * day,
  },
];
