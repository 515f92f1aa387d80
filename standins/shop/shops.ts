import type { Amount } from '../network/kind.ts';

/** Something a shop sells, or gives for a sign-up. */
export interface Product {
  readonly path: string;
  readonly name: string;
  readonly price: Amount;
  /** What its network calls the order of it. */
  readonly event: string;
}

/** A simulated shop, with the network and the offer it has there. */
export interface Shop {
  readonly name: string;
  readonly host: string;
  /** Names the network's books. */
  readonly network: string;
  readonly offer: string;
  readonly colour: string;
  readonly products: readonly Product[];
}

const sold =
  (currency: string, event = 'sale') =>
  (path: string, name: string, minor: number): Product => ({ path, name, price: { minor, currency }, event });
const euro = sold('EUR');
const yen = sold('JPY');
const pound = sold('GBP');
const dollar = sold('USD');

export const shops: readonly Shop[] = [
  {
    name: 'Polehouse Optics',
    host: 'polehouse.localhost',
    network: 'harrowmead',
    offer: '2093',
    colour: '#234a76',
    products: [
      euro('/kits/saturn', 'Saturn eyepiece kit', 17_290),
      euro('/mounts/quiet-tracking', 'Quiet tracking mount', 64_900),
      euro('/heaters/dew-band', 'Dew heater band', 3490),
      euro('/eyepieces/wide-24', 'Wide 24 mm eyepiece', 11_850),
      euro('/filters/moon', 'Moon filter', 2400),
      euro('/eyepieces/barlow', 'Barlow lens that keeps its colours', 8900),
      euro('/eyepieces/planet-10', 'Planet eyepiece 10 mm', 7400),
      euro('/mounts/tripod', 'Tripod that does not shiver', 21_900),
      euro('/finders/red-dot', 'Finder with a red dot', 4250),
      euro('/cases/six', 'Case for six eyepieces', 5600),
      euro('/tools/collimator', 'Collimator', 6100),
      euro('/mounts/counterweight', 'Counterweight', 3900),
      euro('/eyepieces/diagonal', 'Star diagonal', 9700),
      euro('/tools/cleaning', 'Cleaning set for optics', 1950),
      euro('/filters/solar-film', 'Film for the sun', 2850),
      euro('/power/tank', 'Battery for a long night', 13_400),
    ],
  },
  {
    name: 'Cindermitt',
    host: 'cindermitt.localhost',
    network: 'harrowmead',
    offer: '2111',
    colour: '#8a3b1c',
    products: [
      euro('/gloves/warm', 'Warm gloves that work a focuser', 4200),
      euro('/chairs/observing', 'Observing chair', 12_900),
      euro('/boots/over', 'Overboots', 6900),
      euro('/blankets/two', 'Blanket for two', 5400),
      euro('/flasks/night', 'Flask that keeps until morning', 3300),
      euro('/gloves/hand-warmer', 'Hand warmer', 1500),
      euro('/caps/flaps', 'Cap with ear flaps', 2700),
      euro('/mats/kneel', 'Mat to kneel on', 2200),
    ],
  },
  {
    name: 'Wickstar Charts',
    host: 'wickstar.localhost',
    network: 'kelvane',
    offer: '71',
    colour: '#1f3f7a',
    products: [
      sold('USD', 'trial')('/app', 'Star chart for the pocket, a month free', 0),
      sold('USD', 'trial')('/trial', 'Star charts, thirty days free', 0),
      sold('USD', 'yearly')('/year', 'Star charts for a year', 3900),
      sold('USD', 'trial')('/alerts', 'Meteor alerts, a month free', 0),
      sold('USD', 'trial')('/tonight', 'The sky tonight, a month free', 0),
      sold('USD', 'trial')('/comets', 'List of comets, a month free', 0),
      sold('USD', 'trial')('/moon', 'Calendar of the moon, a month free', 0),
      sold('USD', 'trial')('/atlas', 'Deep sky atlas, a month free', 0),
      dollar('/prints/moon', 'Print of the moon', 2400),
    ],
  },
  {
    name: 'Emberlamp',
    host: 'emberlamp.localhost',
    network: 'kelvane',
    offer: '88',
    colour: '#8c2321',
    products: [
      sold('USD', 'lead')('/torch/red', 'Red torch', 2900),
      sold('USD', 'lead')('/torch/head', 'Red lamp for the head', 3400),
      sold('USD', 'lead')('/desk/red', 'Red lamp for the desk', 4800),
      sold('USD', 'lead')('/lantern', 'Lantern with a red pane', 3900),
      sold('USD', 'lead')('/bulb', 'Red bulb', 900),
      sold('USD', 'lead')('/tent', 'Light for a tent', 2600),
    ],
  },
  {
    name: 'Umbra & Finch',
    host: 'umbrafinch.localhost',
    network: 'osprenet',
    offer: '',
    colour: '#33513f',
    products: [
      euro('/telescopes/first', 'First telescope', 18_900),
      yen('/telescopes/rocker-8', 'Eight inch on a rocker', 82_000),
      yen('/telescopes/rocker-10', 'Ten inch on a rocker', 121_000),
      euro('/telescopes/travel', 'Telescope for the train', 24_500),
      yen('/telescopes/refractor-80', 'Refractor of 80 mm', 64_000),
      yen('/telescopes/refractor-102', 'Refractor of 102 mm', 98_000),
      euro('/binoculars/10x50', 'Binoculars 10 × 50', 12_900),
      yen('/binoculars/15x70', 'Binoculars 15 × 70', 31_000),
      yen('/telescopes/solar', 'Telescope for the sun', 143_000),
      euro('/cameras/planet', 'Camera for planets', 29_900),
      yen('/telescopes/guide', 'Guide telescope', 26_000),
      yen('/focusers/motor', 'Focuser with a motor', 22_500),
      euro('/covers/rain', 'Cover against rain', 4900),
      yen('/bags/scope', 'Bag for a telescope', 8800),
    ],
  },
  {
    name: 'Vennor Direct',
    host: 'vennor.localhost',
    network: 'vennor',
    offer: '',
    colour: '#7a2f3f',
    products: [
      pound('/atlas', 'Vennor’s printed atlas', 3800),
      pound('/wheel', 'Vennor’s star wheel', 1200),
      pound('/globe', 'Vennor’s moon globe', 5900),
      pound('/log', 'Vennor’s observing log', 900),
      pound('/poster', 'Vennor’s poster of nebulae', 1600),
    ],
  },
];
