import type { Product } from '#core/catalogue';
import type { CardProduct } from '#core/placing';
import { withMerchant, withPlacement } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { usePlacing } from '../links/copying/placing.ts';
import { today } from '../data/today.ts';

/** What a card's picture is where it is placed, and where it is fetched for looking at it. */
export interface CardPicture {
  readonly src: string;
  readonly address: string;
}

/** The name of a file for a product's picture, to be put beside an article. */
export const pictureFile = ({ name, code, picture = '' }: Product): string => {
  const ending =
    /\.(?:jpe?g|png|webp|gif|avif)$/i.exec(URL.canParse(picture) ? new URL(picture).pathname : '')?.[0] ??
    '.jpg';
  const words = (code || name)
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60);
  return `${words || 'product'}${ending.toLowerCase()}`;
};

/** What is needed to make cards of products, and to remember where they stand. */
export const useCards = () => {
  const catalogue = useCatalogue();
  const { placingOf } = usePlacing();
  /**
   * A product as a card's content, or why no card of it can be placed.
   *
   * @param source where the card will stand; empty for none
   */
  const cardOf = (
    product: Product,
    source: string,
    picture: CardPicture | undefined,
  ): CardProduct | { readonly refused: string } => {
    const link = catalogue.link(product.link);
    const domain = link && catalogue.domain(link.domain);
    if (!link || !domain) return { refused: `${product.name} has no link yet.` };
    if (link.archived) return { refused: `The link ${link.slug} is archived.` };
    const usual = placingOf(link, domain, source);
    if ('refused' in usual) return usual;
    const program = catalogue.program(product.program ?? link.program);
    const placing = { ...usual.link, text: withMerchant(product.name, usual.name) };
    return {
      product,
      shop: program?.name ?? new URL(product.page || link.destination).host,
      link: placing,
      picture: picture?.src,
    };
  };
  /** Notes that cards of products stand at a source as they are now. */
  const placed = async (products: readonly Product[], source: string): Promise<void> => {
    for (const product of products)
      await catalogue.note('product', withPlacement(product, source, Date.now(), today()));
  };
  return { cardOf, placed };
};
