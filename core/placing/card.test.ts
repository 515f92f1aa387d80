import { parseFragment } from 'parse5';
import type { DefaultTreeAdapterTypes as Tree } from 'parse5';
import { describe, expect, it } from 'vitest';
import type { CardProduct } from './index.ts';
import {
  cardClip,
  cardLayouts,
  cardLines,
  cardLookOf,
  cardLookProblems,
  comparisonClip,
  stalePlacements,
  withPlacement,
} from './index.ts';

const look = cardLookOf({});
const hostile = [
  'Kit "8" <b>&amp; more',
  `x' onmouseover='alert(1)`,
  '</a></div><script>alert(1)</script>',
  '<!-- <style>*{display:none}</style>',
  '{price} {shop} $& $1',
  'ערכה לשבתאי',
];
const cardOf = (name: string): CardProduct => ({
  product: {
    name,
    about: `${name} for nights`,
    price: { amount: 129_900, currency: 'EUR', day: '2026-11-12', list: 149_900 },
    coupon: { code: name.slice(0, 40), until: '2026-12-01' },
  },
  shop: 'Polehouse Optics',
  link: {
    address: 'https://see.nightledge.example/kit~guide?a="1"&b=2',
    text: name,
    marks: { rel: ['sponsored', 'nofollow'], newTab: true, title: name },
    referrer: 'page',
  },
  picture: 'kit".jpg',
});

const elementsOf = (html: string): Tree.Element[] => {
  const found: Tree.Element[] = [];
  const walk = (node: Tree.Node) => {
    if ('tagName' in node) found.push(node);
    if ('childNodes' in node) for (const child of node.childNodes) walk(child);
  };
  walk(parseFragment(html));
  return found;
};
const attribute = ({ attrs }: Tree.Element, name: string) => attrs.find((one) => one.name === name)?.value;
const textOf = (html: string): string => {
  let text = '';
  const walk = (node: Tree.Node) => {
    if ('tagName' in node && node.tagName === 'style') return;
    if ('value' in node && node.nodeName === '#text') text += node.value;
    if ('childNodes' in node) for (const child of node.childNodes) walk(child);
  };
  walk(parseFragment(html));
  return text;
};

describe('a card', () => {
  it('has its links, marks, words and picture as an HTML parser reads them, whatever they are', () => {
    for (const name of hostile)
      for (const layout of cardLayouts) {
        const { html, plain } = cardClip(cardOf(name), layout, look, '2026-11-20');
        expect(plain).toBe(html);
        const all = elementsOf(html);
        const links = all.filter(({ tagName }) => tagName === 'a');
        expect(links).toHaveLength(3);
        for (const link of links) {
          expect(attribute(link, 'href')).toBe('https://see.nightledge.example/kit~guide?a="1"&b=2');
          expect(attribute(link, 'rel')).toBe('sponsored nofollow noopener');
          expect(attribute(link, 'target')).toBe('_blank');
          expect(attribute(link, 'referrerpolicy')).toBe('no-referrer-when-downgrade');
          expect(attribute(link, 'title')).toBe(name);
        }
        const [picture, ...others] = all.filter(({ tagName }) => tagName === 'img');
        expect(others).toEqual([]);
        expect(picture && [attribute(picture, 'src'), attribute(picture, 'alt')]).toEqual(['kit".jpg', name]);
        expect(
          all.filter(({ tagName }) => !['style', 'div', 'a', 'img', 'span', 's'].includes(tagName)),
        ).toEqual([]);
        const words = textOf(html);
        expect(words).toContain(name);
        expect(words).toContain('€1,299.00 on 12 Nov 2026, may have changed');
        expect(words).toContain('instead of €1,499.00');
        expect(words).toContain('See it at Polehouse Optics');
        // Nothing of it is left to a page: each property is important, and so comes before what any page says.
        for (const element of all.filter(({ tagName }) => tagName !== 'style')) {
          const style = attribute(element, 'style') ?? '';
          expect(style).toMatch(/^all:(?:unset|initial)!important;/);
          expect(style.split(';').filter((rule) => !rule.endsWith('!important'))).toEqual([]);
        }
      }
  });

  it('compares two to six products, and no more', () => {
    const cards = hostile.map(cardOf);
    const all = elementsOf(comparisonClip(cards, look, '2026-11-20').html);
    expect(all.filter(({ tagName }) => tagName === 'li')).toHaveLength(6);
    expect(all.filter(({ tagName }) => tagName === 'a')).toHaveLength(18);
    expect(() => comparisonClip([...cards, cardOf('one more')], look, '2026-11-20')).toThrow(RangeError);
    expect(() => comparisonClip(cards.slice(0, 1), look, '2026-11-20')).toThrow(RangeError);
  });

  it('leaves a coupon out from the day after its last', () => {
    const card = cardOf('Kit');
    expect(cardLines(card, look, '2026-12-01').coupon).toBe('With the code Kit until 1 Dec 2026');
    expect(cardLines(card, look, '2026-12-02').coupon).toBe('');
  });

  it('writes prices and days in the person’s language, and says what cannot be read', () => {
    const german = { ...look, language: 'de-DE', price: '{price} am {day}, kann sich geändert haben' };
    expect(cardLines(cardOf('Kit'), german, '2026-11-20').price.replace(/\s/g, ' ')).toBe(
      '1.299,00 € am 12. Nov. 2026, kann sich geändert haben',
    );
    expect(cardLookProblems(look)).toEqual([]);
    expect(cardLookProblems({ ...look, paper: '#777777', price: 'only {price}' })).toEqual([
      expect.stringContaining('The card’s text has a contrast of 3.'),
      expect.stringContaining('The name on the card'),
      expect.stringContaining('need {price} and {day}'),
    ]);
  });
});

describe('where a product stands', () => {
  const product = {
    id: 'pro_a',
    name: 'Kit',
    code: '',
    page: '',
    createdAt: 0,
    price: { amount: 900, currency: 'EUR', day: '2026-11-01' },
    coupon: { code: 'NIGHT', until: '2026-11-10' },
  };

  it('is known by what was copied there, and is old once price or coupon are others', () => {
    const placed = withPlacement(withPlacement(product, 'guide', 1, '2026-11-05'), 'mail', 2, '2026-11-11');
    expect(stalePlacements(placed, '2026-11-10')).toEqual([]);
    // On the eleventh the coupon had ended, so the card for the mail has none.
    expect(stalePlacements(placed, '2026-11-11')).toEqual([
      { source: 'guide', at: 1, price: undefined, coupon: 'NIGHT' },
    ]);
    const dearer = { ...placed, price: { ...product.price, amount: 950 } };
    expect(stalePlacements(dearer, '2026-11-10').map(({ source, price }) => [source, price?.amount])).toEqual(
      [
        ['guide', 900],
        ['mail', 900],
      ],
    );
    const again = withPlacement(dearer, 'guide', 3, '2026-11-10');
    expect(stalePlacements(again, '2026-11-10').map(({ source }) => source)).toEqual(['mail']);
  });
});
