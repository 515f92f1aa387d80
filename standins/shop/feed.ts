import { writeAmount } from '#core/values';
import type { Shop } from './shops.ts';

const codeOf = ({ name }: Shop, i: number): string =>
  `${name.slice(0, 2).toUpperCase()}-${String(4100 + i * 7)}`;

/** The feed of a shop as CSV of its own kind: semicolons, a decimal comma, German headings, Latin-1. */
export const csvFeed = (shop: Shop, origin: string): Buffer => {
  const rows = shop.products
    .filter(({ price }) => price.minor > 0)
    .map(({ name, path, price }, i) => {
      const amount = writeAmount(price.minor, price.currency).replace('.', ',');
      return [
        codeOf(shop, i),
        `"${name}"`,
        amount,
        price.currency,
        origin + path,
        `${origin}/picture.png`,
        `"Für draußen: ${name}."`,
      ];
    });
  const lines = [
    ['Artikelnummer', 'Bezeichnung', 'Preis', 'Währung', 'Produktlink', 'Bild', 'Kurzbeschreibung'],
    ...rows,
  ];
  return Buffer.from(lines.map((cells) => `${cells.join(';')}\r\n`).join(''), 'latin1');
};

const xmlText = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

/** The feed of a shop as XML of its own kind: values in elements within elements, and in attributes. */
export const xmlFeed = (shop: Shop, origin: string): string => {
  const items = shop.products
    .filter(({ price }) => price.minor > 0)
    .map(
      ({ name, path, price }, i) =>
        `  <article number="${codeOf(shop, i)}">\n    <title>${xmlText(name)}</title>\n    <page href="${origin}${path}"/>\n    <pictures><image>${origin}/picture.png</image></pictures>\n    <price currency="${price.currency}">${writeAmount(price.minor, price.currency)}</price>\n    <summary>${xmlText(`${name}, from ${shop.name}.`)}</summary>\n  </article>`,
    );
  return `<?xml version="1.0" encoding="UTF-8"?>\n<assortment shop="${xmlText(shop.name)}">\n${items.join('\n')}\n</assortment>\n`;
};
