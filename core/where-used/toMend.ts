import type { Page, Product } from '#core/catalogue';
import type { FindKind, LinkReader } from '#core/articles';
import { faultOf, staleBecause } from '#core/articles';
import { dayIn } from '#core/hop';

/** What is to be mended on a page: as finds in an article are called, or `earlier`, an address that the link led to before. */
export interface ToMend {
  readonly kind: FindKind | 'earlier';
  /** As a sentence. */
  readonly says: string;
}

/** What of ours stands on a page, by today's links. */
export interface JudgedLink {
  /** ID of the link it is or could be; undefined for none. */
  readonly link: string | undefined;
  readonly address: string;
  readonly times: number;
  /** It is the link's short address, so whatever the link becomes, nothing has to be done here. */
  readonly follows: boolean;
  readonly mend: ToMend | undefined;
}

/** What is to be mended about a link of which only is known that it stands somewhere. */
export const toMend = (reader: LinkReader, id: string, isShort: boolean): ToMend | undefined => {
  const link = reader.linkOf(id);
  if (!link) return { kind: 'nowhere', says: 'This link was removed: who presses it gets nothing.' };
  const fault = faultOf(reader, '', { kind: 'ours', link, source: '', isShort });
  return fault && { kind: fault.kind, says: fault.says };
};

/** Judges what stood on a page when it was read by what the links are now. */
export const judgedLinks = (reader: LinkReader, page: Pick<Page, 'links'>): JudgedLink[] =>
  page.links.map(({ address, link: before, times, marks }): JudgedLink => {
    const meaning = reader.meaning(address);
    const now = meaning.kind === 'ours' ? meaning.link.id : undefined;
    const couldBe = 'links' in meaning ? meaning.links[0]?.id : undefined;
    const held = reader.linkOf(before ?? '');
    const link = now ?? couldBe ?? held?.id;
    const base = { link, address, times, follows: meaning.kind === 'ours' && meaning.isShort };
    const fault = faultOf(reader, address, meaning);
    // It was a link's own destination, which is another one by now.
    const isOpen = held !== undefined && reader.ended(held) === undefined;
    if (now === undefined && couldBe === undefined && isOpen && meaning.kind !== 'nowhere')
      return { ...base, mend: { kind: 'earlier', says: `${held.slug} led there before, and does not now.` } };
    if (fault) return { ...base, mend: { kind: fault.kind, says: fault.says } };
    return {
      ...base,
      mend: marks === undefined || now === undefined ? undefined : { kind: 'marks', says: marks },
    };
  });

/** What a page says of products that is no longer so; one entry for each sentence. */
export const staleSaid = (
  reader: LinkReader,
  products: ReadonlyMap<string, Product>,
  page: Pick<Page, 'says'>,
): (ToMend & { readonly link: string | undefined })[] => {
  const today = dayIn('UTC', reader.register.now);
  return (page.says ?? []).flatMap(({ product: id, amount, currency, coupon }) => {
    const product = products.get(id);
    if (!product) return [];
    const price = amount === undefined || currency === undefined ? undefined : { amount, currency };
    const says = staleBecause(
      { product, ...(price && { price }), ...(coupon !== undefined && { coupon }) },
      today,
    );
    return says === undefined
      ? []
      : [{ kind: price ? ('price' as const) : ('coupon' as const), says, link: product.link }];
  });
};
