import type { Product, Settings } from '#core/catalogue';
import { escapeHtml } from '#core/hop';
import { exponentOf, writeAmount } from '#core/values';
import type { Clip } from './forms.ts';
import type { PlacingLook } from './look.ts';
import { contrastProblem, usualLook } from './look.ts';
import type { PlacedLink } from './snippet.ts';
import { linkAround } from './snippet.ts';

/** How a card stands: its picture at a side or above, across the text, or all in a line. */
export const cardLayouts = ['picture left', 'picture right', 'picture above', 'wide', 'compact'] as const;
export type CardLayout = (typeof cardLayouts)[number];

/** Words and colours of cards. */
export type CardLook = NonNullable<Settings['cards']> & Pick<PlacingLook, 'link' | 'ground' | 'ink'>;

export const usualCards: NonNullable<Settings['cards']> = {
  button: 'See it at {shop}',
  price: '{price} on {day}, may have changed',
  list: 'instead of {price}',
  coupon: 'With the code {code}',
  until: 'until {day}',
  language: 'en-GB',
  paper: '#ffffff',
  words: '#1d2321',
};

/** The look of cards by the settings. */
export const cardLookOf = ({ cards, placing }: Pick<Settings, 'cards' | 'placing'>): CardLook => ({
  ...usualCards,
  ...cards,
  ...(placing ?? usualLook),
});

/** What is wrong with a look: words that cannot be read well, and a price without what has to stand with it; as sentences. */
export const cardLookProblems = (look: CardLook): string[] =>
  [
    contrastProblem(look.words, look.paper, 'The card’s text'),
    contrastProblem(look.link, look.paper, 'The name on the card'),
    contrastProblem(look.ink, look.ground, 'The button'),
    look.price.includes('{price}') && look.price.includes('{day}')
      ? undefined
      : 'Words with a price need {price} and {day}: a price without its day soon is a wrong one.',
  ].filter((problem) => problem !== undefined);

/** A product as it stands on a card. */
export interface CardProduct {
  readonly product: Pick<Product, 'name' | 'alt' | 'price' | 'about' | 'coupon'>;
  /** Who sells it. */
  readonly shop: string;
  /** With the words that are linked: its name, and what its merchant wants to be read. */
  readonly link: PlacedLink;
  /** Where its picture lies; left out for a card without one. */
  readonly picture?: string | undefined;
}

const fill = (words: string, values: Readonly<Record<string, string>>): string =>
  words.replace(/\{(\w+)\}/g, (whole, name: string) => values[name] ?? whole);

/** A price as it is written in a language, exactly. */
const priceText = (minor: number, currency: string, language: string): string => {
  const digits = exponentOf(currency);
  const format = new Intl.NumberFormat(language, {
    style: 'currency',
    currency,
    currencyDisplay: 'narrowSymbol',
    minimumFractionDigits: digits,
    maximumFractionDigits: digits,
  });
  // Intl formats a decimal text without going through floating point.
  return format.format(writeAmount(minor, currency) as unknown as number); // the type of lib lags behind the standard
};
export const dayText = (day: string, language: string): string =>
  new Intl.DateTimeFormat(language, {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  }).format(Date.parse(`${day}T00:00:00Z`));

/** The lines of a card below its name, as plain words; a coupon that has ended is none. */
export const cardLines = (
  { product: { price, coupon } }: CardProduct,
  look: CardLook,
  today: string,
): { readonly price: string; readonly list: string; readonly coupon: string } => {
  const { language } = look;
  const holds = coupon && (coupon.until === undefined || coupon.until >= today);
  return {
    price: price
      ? fill(look.price, {
          price: priceText(price.amount, price.currency, language),
          day: dayText(price.day, language),
        })
      : '',
    list:
      price?.list === undefined
        ? ''
        : fill(look.list, { price: priceText(price.list, price.currency, language) }),
    coupon: holds
      ? [
          fill(look.coupon, { code: coupon.code }),
          ...(coupon.until === undefined ? [] : [fill(look.until, { day: dayText(coupon.until, language) })]),
        ].join(' ')
      : '',
  };
};

/**
 * An inline style against which no rule of a page has a chance: every property is first set back and everything is marked as
 * important, which in a style attribute comes before all that a page's author writes (CSS Cascading and Inheritance 5, §6.1).
 * What a visitor sees at a link that has the keyboard stays the browser's.
 */
const firm = (base: 'initial' | 'unset', rules: string): string =>
  ['all', 'box-sizing', 'outline']
    .map((name, i) => `${name}:${[base, 'border-box', 'revert'][i] ?? ''}`)
    .concat(rules.split(';'))
    .map((rule) => `${rule}!important`)
    .join(';');

/**
 * What no style attribute reaches: things that a page puts before and behind its elements, and its first letters. The name that
 * nothing has makes the rule weigh more than a page's own, and it holds for cards alone.
 */
const guard =
  '<style>' +
  ['::before', '::after', ' *::before', ' *::after']
    .map((part) => `:is(#fernhop-a#fernhop-b#fernhop-c,.fernhop-card)${part}`)
    .join(',') +
  '{content:none!important;display:none!important}' +
  ['::first-letter', ' *::first-letter', '::first-line', ' *::first-line']
    .map((part) => `:is(#fernhop-a#fernhop-b#fernhop-c,.fernhop-card)${part}`)
    .join(',') +
  '{all:unset!important;font:inherit!important;color:inherit!important;float:none!important;margin:0!important;padding:0!important;letter-spacing:normal!important;text-transform:none!important;background:none!important}' +
  '</style>';

const styled = (tag: string, style: string, inside: string): string =>
  inside === '' ? '' : `<${tag} style="${escapeHtml(firm('unset', style))}">${inside}</${tag}>`;

interface Measures {
  readonly root: string;
  readonly picture: string;
  readonly body: string;
  readonly name: string;
  readonly hasAbout: boolean;
}
const body = 'display:flex;flex-direction:column;gap:6px;align-items:flex-start;min-width:0';
const measures: Readonly<Record<CardLayout | 'compared', Measures>> = {
  'picture left': {
    root: 'display:flex;flex-wrap:wrap;gap:18px;align-items:center;max-width:640px',
    picture: 'flex:1 1 160px;max-width:220px',
    body: `${body};flex:99 1 240px`,
    name: 'font-size:19px',
    hasAbout: true,
  },
  'picture right': {
    root: 'display:flex;flex-wrap:wrap;flex-direction:row-reverse;gap:18px;align-items:center;max-width:640px',
    picture: 'flex:1 1 160px;max-width:220px',
    body: `${body};flex:99 1 240px`,
    name: 'font-size:19px',
    hasAbout: true,
  },
  'picture above': {
    root: 'display:flex;flex-direction:column;gap:14px;max-width:300px',
    picture: 'width:100%',
    body,
    name: 'font-size:19px',
    hasAbout: true,
  },
  wide: {
    root: 'display:flex;flex-wrap:wrap;gap:24px;align-items:center',
    picture: 'flex:1 1 240px;max-width:420px',
    body: `${body};flex:99 1 280px`,
    name: 'font-size:24px',
    hasAbout: true,
  },
  compact: {
    root: 'display:flex;flex-wrap:wrap;gap:12px;align-items:center;max-width:640px',
    picture: 'flex:0 0 72px',
    body: 'display:flex;flex-wrap:wrap;gap:6px 14px;align-items:center;justify-content:space-between;flex:1 1 220px;min-width:0',
    name: 'font-size:16px',
    hasAbout: false,
  },
  compared: {
    root: 'display:flex;flex-direction:column;gap:10px',
    picture: 'width:100%',
    body: `${body};flex:1 1 auto`,
    name: 'font-size:16px',
    hasAbout: true,
  },
};

const isRightToLeft = (text: string): boolean =>
  /^[^\p{Letter}]*[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}]/u.test(text);

/** What stands in a card, and where. */
const inside = (
  card: CardProduct,
  layout: CardLayout | 'compared',
  look: CardLook,
  today: string,
): string => {
  const { product, link, picture, shop } = card;
  const { coupon } = cardLines(card, look, today);
  const { price } = product;
  const { language } = look;
  const amount = (minor: number, currency: string, tag: string, style: string) =>
    styled(tag, style, escapeHtml(priceText(minor, currency, language)));
  const priced = price
    ? fill(escapeHtml(look.price), {
        price: amount(price.amount, price.currency, 'span', 'font-size:17px;font-weight:600'),
        day: escapeHtml(dayText(price.day, language)),
      })
    : '';
  const listed =
    price?.list === undefined
      ? ''
      : fill(escapeHtml(look.list), {
          price: amount(price.list, price.currency, 's', 'text-decoration:line-through'),
        });
  const { picture: pictureStyle, body: bodyStyle, name, hasAbout } = measures[layout];
  const alt = product.alt ?? product.name;
  const shown = picture
    ? styled(
        'div',
        pictureStyle,
        linkAround(
          // A place of its own keeps the page still while the picture comes.
          `<img src="${escapeHtml(picture)}" alt="${escapeHtml(alt)}" style="${escapeHtml(firm('unset', 'display:block;width:100%;height:auto;aspect-ratio:4/3;object-fit:contain'))}">`,
          link,
          firm('unset', 'display:block;cursor:pointer'),
        ),
      )
    : '';
  const small = 'display:block;font-size:14px;line-height:1.45';
  const words = [
    linkAround(
      escapeHtml(link.text),
      link,
      firm(
        'unset',
        `display:block;${name};line-height:1.3;font-weight:600;color:${look.link};text-decoration:underline;cursor:pointer;overflow-wrap:anywhere`,
      ),
    ),
    hasAbout && product.about
      ? styled(
          'div',
          'display:block;font-size:15px;line-height:1.5;overflow-wrap:anywhere',
          escapeHtml(product.about),
        )
      : '',
    styled('div', small, [styled('span', 'margin-right:8px', priced), styled('span', '', listed)].join('')),
    styled('div', small, escapeHtml(coupon)),
    linkAround(
      escapeHtml(fill(look.button, { shop })),
      link,
      firm(
        'unset',
        `display:inline-block;${layout === 'compared' ? 'margin-top:auto;' : ''}padding:10px 18px;border-radius:10px 3px;background:${look.ground};color:${look.ink};font-size:15px;font-weight:600;line-height:1.3;text-align:center;cursor:pointer`,
      ),
    ),
  ];
  return shown + styled('div', bodyStyle, words.join(''));
};

const rootStyle = (rules: string, look: CardLook, text: string): string =>
  firm(
    'initial',
    `${rules};direction:${isRightToLeft(text) ? 'rtl' : 'ltr'};unicode-bidi:isolate;margin:20px 0;padding:16px;background:${look.paper};color:${look.words};border:1px solid ${look.words}33;border-radius:12px 3px;font-family:system-ui,sans-serif;font-size:16px;line-height:1.45;text-align:start`,
  );

/** A card of a product for the clipboard: pure HTML and CSS, which looks the same on every page and changes nothing of it. */
export const cardClip = (card: CardProduct, layout: CardLayout, look: CardLook, today: string): Clip => {
  const html = `${guard}<div class="fernhop-card" style="${escapeHtml(rootStyle(measures[layout].root, look, card.product.name))}">${inside(card, layout, look, today)}</div>`;
  return { plain: html, html };
};

/** Most products that are compared beside each other. */
export const mostCompared = 6;

/**
 * Several products beside each other, which wrap where there is no room.
 *
 * @throws RangeError for more than six, or fewer than two
 */
export const comparisonClip = (cards: readonly CardProduct[], look: CardLook, today: string): Clip => {
  if (cards.length < 2 || cards.length > mostCompared)
    throw new RangeError(`Two to ${mostCompared} products are compared, not ${cards.length}.`);
  const each = cards.map((card) =>
    styled('li', measures.compared.root, inside(card, 'compared', look, today)),
  );
  const html = `${guard}<ul class="fernhop-card" style="${escapeHtml(rootStyle('display:grid;grid-template-columns:repeat(auto-fit,minmax(150px,1fr));gap:24px 18px;list-style:none', look, cards[0]?.product.name ?? ''))}">${each.join('')}</ul>`;
  return { plain: html, html };
};
