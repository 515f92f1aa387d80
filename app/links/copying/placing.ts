import type { Domain, Link, Restriction } from '#core/catalogue';
import { marksOf, restrictionsOf } from '#core/catalogue';
import type { PlacedLink } from '#core/placing';
import { anchorOf } from '#core/placing';
import { useCatalogue } from '../../data/catalogue.ts';
import { countedAs, placedUrl } from '../address.ts';

/** A link as it may be placed, and what its merchant and its domain ask of that. */
export interface Placing {
  readonly link: PlacedLink;
  readonly restrictions: readonly Restriction[];
  /** What the merchant wants to be read in the linked text; empty where it wants nothing. */
  readonly name: string;
  /** A sentence that the merchant wants to stand with the link; empty where it wants none. */
  readonly disclosure: string;
}

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
  ): Placing | { readonly refused: string } => {
    const program = catalogue.program(link.program);
    const restrictions = restrictionsOf(program, domain);
    const name = program?.rules?.name ?? ''; // a program without rules wants no name
    const placed = placedUrl(domain, link, restrictions, catalogue.networks, source);
    if ('refused' in placed) return placed;
    const isOurs = !restrictions.some(({ what }) => what === 'short');
    return {
      link: {
        address: placed.address,
        text: text ?? anchorOf(link, name),
        marks: marksOf(link, domain),
        ...(!isOurs && { counted: countedAs(link) }),
        referrer: isOurs ? 'page' : 'usual',
      },
      restrictions,
      name,
      disclosure: program?.rules?.disclosure ?? '',
    };
  };
  return { placingOf };
};
