import type { Product } from '#core/catalogue';

/** What is read somewhere of a product and is no longer so. */
export interface StalePlacement {
  /** Where it stands; empty for a place without a source. */
  readonly source: string;
  /** When it was copied, in milliseconds since 1970 UTC. */
  readonly at: number;
  /** The price that is read there where another is true now, in minor units; null for none. */
  readonly price?: { readonly amount: number; readonly currency: string } | undefined;
  /** The coupon that is read there where it has ended, or is none of the product's any more. */
  readonly coupon?: string | undefined;
}

/** The places at which something is read of a product that is no longer so on a day, the oldest first. */
export const stalePlacements = (
  { placed = [], price, coupon }: Pick<Product, 'placed' | 'price' | 'coupon'>,
  today: string,
): StalePlacement[] =>
  placed
    .map(({ source, at, amount, currency, coupon: shown }): StalePlacement => {
      const isOther =
        amount !== undefined &&
        currency !== undefined &&
        (price?.amount !== amount || price.currency !== currency);
      const holds = shown === coupon?.code && (coupon?.until === undefined || coupon.until >= today);
      return {
        source,
        at,
        price: isOther ? { amount, currency } : undefined,
        coupon: shown === undefined || holds ? undefined : shown,
      };
    })
    .filter(({ price: other, coupon: gone }) => other !== undefined || gone !== undefined)
    .toSorted((a, b) => a.at - b.at);

/** A product with one more place at which its card stands as it is now; what was copied for that source before is replaced by it. */
export const withPlacement = (product: Product, source: string, at: number, today: string): Product => {
  const { price, coupon } = product;
  const isShown = coupon && (coupon.until === undefined || coupon.until >= today);
  return {
    ...product,
    placed: [
      ...(product.placed ?? []).filter((other) => other.source !== source),
      {
        source,
        at,
        ...(price && { amount: price.amount, currency: price.currency }),
        ...(isShown && { coupon: coupon.code }),
      },
    ].slice(-200),
  };
};
