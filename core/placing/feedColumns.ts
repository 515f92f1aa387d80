import { foldText } from '#core/catalogue';
import { currencyIn, inferDateOrder, inferDecimal } from '#core/values';
import type { DateOrder } from '#core/catalogue';

/** What a column of a shop's feed can hold. */
export const feedRoles = [
  'name',
  'code',
  'second code',
  'page',
  'tracking link',
  'picture',
  'price',
  'sale price',
  'list price',
  'currency',
  'about',
  'coupon',
  'coupon end',
  'changed',
  'nothing',
] as const;
export type FeedRole = (typeof feedRoles)[number];

/**
 * What columns are called in feeds of shops in English, German, French, Spanish, Italian and Dutch (*common practice*), the surest
 * names first. A prefix such as `g:` and the elements around a value are no part of its name.
 */
const names: Readonly<Record<Exclude<FeedRole, 'nothing'>, readonly RegExp[]>> = {
  name: [
    /^(?:product|item|artikel|produkt|article)?(?:name|title|titel|bezeichnung)$/,
    /^(?:nom|titre|nombre|titulo|nome|titolo|naam)(?:d[eu]l?)?(?:produit|producto|prodotto|product)?$/,
    /^(?:product|produkt|artikel|nomproduit|designation|denominacion|denominazione|omschrijvingkort)$/,
  ],
  code: [
    /^(?:sku|articlenumber|artikelnummer|artnr|merchantproductid|productid|itemid|produktid|artikelid|idproduit|referencia?|reference|codice|codigo)$/,
    /^(?:id|mpn|productnumber|produktnummer|itemno|itemnumber|modelnumber|model)$/,
    /^(?:number|nummer|numero|nr|no)$/,
  ],
  'second code': [/^(?:ean|gtin|gtin13|upc|isbn|barcode|ean13|codebarre)$/],
  page: [
    /^(?:producturl|productlink|productpage|landingpage|pageurl|merchantdeeplink|shopurl|produkturl|produktlink|urlproduit|urlproducto)$/,
    /^(?:url|link|loc|href|lien|enlace|page)$/,
  ],
  'tracking link': [
    /^(?:deeplink|deeplinkurl|trackinglink|trackingurl|affiliatelink|affiliateurl|clickurl|buyurl|partnerlink)$/,
  ],
  picture: [
    /^(?:imageurl|imagelink|image|picture|pictureurl|bild|bildurl|bildlink|largeimage|merchantimageurl|productimage|imagen|immagine|afbeelding|photo|foto)$/,
    /^(?:images?image(?:url)?|mediumimage|smallimage|thumb|thumbnail|thumbnailurl|img|imgurl)$/,
  ],
  'sale price': [
    /^(?:saleprice|currentprice|specialprice|angebotspreis|offerprice|aktionspreis|prixpromo|preciooferta)$/,
  ],
  price: [
    /^(?:price|preis|prix|precio|prezzo|prijs|searchprice|displayprice|priceamount|bruttopreis|preisbrutto|endpreis|unitprice)$/,
  ],
  'list price': [
    /^(?:listprice|rrp|rrpprice|msrp|uvp|uvppreis|wasprice|oldprice|regularprice|streichpreis|alterpreis|prixbarre|preciotachado|baseprice|originalprice|statt|stattpreis|strikeprice|adviesprijs|prixconseille)$/,
  ],
  currency: [/^(?:currency|currencycode|waehrung|wahrung|devise|moneda|valuta|curr|pricecurrency)$/],
  about: [
    /^(?:shortdescription|descriptionshort|kurzbeschreibung|summary|teaser|kurztext)$/,
    /^(?:description|productdescription|beschreibung|descripcion|descrizione|omschrijving|longdescription|text|desc)$/,
  ],
  coupon: [
    /^(?:coupon|couponcode|voucher|vouchercode|gutschein|gutscheincode|promocode|promotioncode|codepromo|cupon|kortingscode)$/,
  ],
  'coupon end': [
    /^(?:couponend|couponenddate|couponexpires|voucherend|couponvaliduntil|gutscheinende|gutscheingueltigbis|couponexpiry)$/,
  ],
  changed: [
    /^(?:lastupdated|updated|lastmodified|modified|updatedat|priceupdated|pricedate|stand|geandert|aktualisiert)$/,
  ],
};

/** A heading as it is looked for: its last piece, without prefix, signs and accents. `images/image@url` is `imagesimageurl` too. */
const formsOfHeading = (heading: string): string[] => {
  const parts = heading.split(/[/@]/).filter((part) => part !== '');
  const plain = (text: string) =>
    foldText(text)
      .replace(/^\w+:/, '')
      .replace(/[^\p{Letter}\p{Number}]+/gu, '');
  const last = parts.at(-1) ?? '';
  return [...new Set([plain(last), parts.map(plain).join('')])];
};

const filled = (cells: readonly string[]): string[] =>
  cells.map((cell) => cell.trim()).filter((cell) => cell !== '');
const share = (cells: readonly string[], form: RegExp): number =>
  cells.length === 0 ? 0 : cells.filter((cell) => form.test(cell)).length / cells.length;

/** Whether what stands in a column can be what its name says. */
const canBe = (role: FeedRole, cells: readonly string[]): boolean => {
  const some = filled(cells);
  if (some.length === 0) return false;
  switch (role) {
    case 'page':
    case 'tracking link':
    case 'picture':
      return share(some, /^https?:\/\/|^\/\//i) > 0.9;
    case 'price':
    case 'sale price':
    case 'list price':
      return share(some, /\d/) > 0.5 && share(some, /^[^\d]{0,8}\d[\d.,'\s]*[^\d]{0,8}$/) > 0.5;
    case 'currency':
      return share(some, /^[A-Za-z]{3}$/) > 0.9;
    case 'name':
      return share(some, /\p{Letter}/u) > 0.5 && share(some, /^https?:/i) < 0.5;
    default:
      return true;
  }
};

/** How a feed would be read. */
export interface FeedReading {
  readonly roles: Readonly<Record<string, FeedRole>>;
  readonly decimal: '.' | ',';
  readonly dates: DateOrder;
  /** The currency where no cell tells one. */
  readonly currency: string;
  /** What has to be asked, because the file leaves it open. */
  readonly asks: readonly ('name' | 'page' | 'decimal' | 'currency')[];
}

/** What a person said of how a feed is to be read. */
export interface FeedChoices {
  readonly roles?: Readonly<Record<string, FeedRole>>;
  readonly decimal?: '.' | ',';
  readonly currency?: string;
}

/**
 * Proposes how a feed is to be read, from its headings and what stands under them, and says what has to be asked.
 *
 * @param sample some of its rows
 * @param usual the currency that a sign of several most likely means
 */
export const readFeedColumns = (
  header: readonly string[],
  sample: readonly (readonly string[])[],
  usual: string,
  choices: FeedChoices = {},
): FeedReading => {
  const column = (i: number) => sample.map((row) => row[i] ?? '');
  const roles: Record<string, FeedRole> = Object.fromEntries(
    header.map((heading) => [heading, 'nothing' as const]),
  );
  for (const role of feedRoles) {
    if (role === 'nothing') continue;
    const forms = names[role];
    let best: { readonly heading: string; readonly rank: number } | undefined;
    for (const [i, heading] of header.entries()) {
      if (roles[heading] !== 'nothing') continue;
      const rank = forms.findIndex((form) => formsOfHeading(heading).some((name) => form.test(name)));
      if (rank >= 0 && rank < (best?.rank ?? Infinity) && canBe(role, column(i))) best = { heading, rank };
    }
    if (best) roles[best.heading] = role;
  }
  for (const [heading, role] of Object.entries(choices.roles ?? {})) {
    for (const other of header) if (roles[other] === role) roles[other] = 'nothing';
    roles[heading] = role;
  }
  const at = (role: FeedRole) => header.findIndex((heading) => roles[heading] === role);
  const currency = at('currency');
  const prices = (['price', 'sale price', 'list price'] as const).map(at).filter((i) => i >= 0);
  const cells = filled(prices.flatMap(column));
  const told = currency < 0 ? [] : filled(column(currency));
  const named = new Set(cells.flatMap((cell) => currencyIn(cell, usual) ?? []));
  const decimal = inferDecimal(
    cells,
    (_, cell) => currencyIn(cell, usual) ?? told[0]?.toUpperCase() ?? usual,
  );
  const asks: FeedReading['asks'][number][] = [];
  if (at('name') < 0) asks.push('name');
  if (at('page') < 0 && at('tracking link') < 0) asks.push('page');
  const isOpen = decimal === undefined && cells.some((cell) => /\d[.,]\d{3}(?!\d)/.test(cell));
  if (isOpen && choices.decimal === undefined) asks.push('decimal');
  if (prices.length > 0 && told.length === 0 && named.size === 0 && choices.currency === undefined)
    asks.push('currency');
  const changed = at('changed') >= 0 ? at('changed') : at('coupon end');
  return {
    roles,
    decimal: choices.decimal ?? decimal ?? '.',
    dates: (changed < 0 ? undefined : inferDateOrder(column(changed)).order) ?? 'dmy',
    currency: choices.currency ?? usual,
    asks,
  };
};
