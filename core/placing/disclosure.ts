/** Where a disclosure stands. */
export const disclosurePlaces = ['page', 'post', 'mail', 'video'] as const;
export type DisclosurePlace = (typeof disclosurePlaces)[number];
export type DisclosureLength = 'short' | 'usual' | 'long';

/**
 * Texts that say why a link is there, before it is pressed. What they have to say is common practice: that the link is paid for,
 * that the reader pays nothing more, in plain words and near the link. They are proposals: what the law of a country or a
 * merchant asks for beyond, the person knows.
 */
const texts: Readonly<Record<DisclosurePlace, Readonly<Record<DisclosureLength, string>>>> = {
  page: {
    short: 'Some links on this page pay us if you buy.',
    usual: 'Some links on this page pay us if you buy. It costs you nothing.',
    long: 'Some links on this page are affiliate links: if you buy after pressing one, the shop pays us a commission. You pay the same. We recommend what we would buy ourselves, and nobody pays for being recommended.',
  },
  post: {
    short: '(Paid link)',
    usual: 'This link pays me if you buy. You pay the same.',
    long: 'This is an affiliate link: if you buy after pressing it, the shop pays me a commission. You pay the same.',
  },
  mail: {
    short: 'Links to shops in this mail pay us if you buy.',
    usual: 'Links to shops in this mail pay us if you buy. You pay the same.',
    long: 'Links to shops in this mail are affiliate links: if you buy after pressing one, the shop pays us a commission. You pay the same, and you can always go to the shop by yourself.',
  },
  video: {
    short: 'The links below pay us if you buy.',
    usual: 'The links below this video pay us if you buy. You pay the same.',
    long: 'The links below this video are affiliate links: if you buy after pressing one, the shop pays us a commission. You pay the same, and nobody paid for being shown.',
  },
};

/**
 * A disclosure for a place in a length.
 *
 * @param asked what a merchant asks to be said, if it does; it stands after ours
 */
export const disclosureOf = (place: DisclosurePlace, length: DisclosureLength, asked = ''): string =>
  [texts[place][length], asked].filter((text) => text !== '').join(' ');
