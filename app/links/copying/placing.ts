import type { Domain, Link } from '#core/catalogue';
import type { Placing } from '#core/placing';
import { placingOf as placingAt } from '#core/placing';
import { useCatalogue } from '../../data/catalogue.ts';

export type { Placing } from '#core/placing';

/** What is placed of a link. */
export const usePlacing = () => {
  const catalogue = useCatalogue();
  /**
   * The link with its marks; or why nothing of it may be placed.
   *
   * @param source where its visitors will come from; empty for none
   * @param text what is linked; the link's usual words when left out
   */
  const placingOf = (
    link: Link,
    domain: Domain,
    source = '',
    text?: string,
  ): Placing | { readonly refused: string } =>
    placingAt(link, domain, catalogue.program(link.program), catalogue.networks, location.port, source, text);
  return { placingOf };
};
