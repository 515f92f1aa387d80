import type { Domain, Link } from '#core/catalogue';
import { addressOf } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';

const whereIs = (
  catalogue: ReturnType<typeof useCatalogue>,
  id: string,
): { readonly domain: Domain; readonly link: Link } | undefined => {
  const link = catalogue.link(id);
  const domain = catalogue.domain(link?.domain);
  return link && domain ? { domain, link } : undefined;
};

/** The short address of a link with its own domain and group, by its ID; the ID itself where the link is gone. */
export const useAddressOf = (): ((id: string) => string) => {
  const catalogue = useCatalogue();
  return (id) => {
    const found = whereIs(catalogue, id);
    return found ? addressOf(found.domain, found.link) : id;
  };
};

/** The name of a link in a list: its address, without the domain where there is only one. */
export const useLinkName = (): ((id: string) => string) => {
  const catalogue = useCatalogue();
  return (id) => {
    const found = whereIs(catalogue, id);
    if (!found) return id;
    const address = addressOf(found.domain, found.link);
    return catalogue.domains.length > 1 ? address : address.slice(found.domain.host.length + 1);
  };
};
