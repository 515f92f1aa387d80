import type { Domain, Network } from '#core/catalogue';
import { originOfHost, postbackFields } from '#core/catalogue';

/** Where a domain's addresses begin; without one, those of this machine. */
export const originOf = (domain: Domain | undefined): string =>
  originOfHost(domain?.host ?? 'localhost', location.port);

/** The query of the address to set at a network: our fields with the network's own placeholders. */
export const postbackQuery = ({ postback }: Network): string =>
  postbackFields
    .flatMap((field) => {
      const placeholder = postback.placeholders[field];
      // Placeholders stay as they are: the network looks for them letter by letter.
      return placeholder ? [`${encodeURIComponent(postback.fields[field] ?? field)}=${placeholder}`] : [];
    })
    .join('&');

/**
 * The address to set at a network. It stands on a link domain, since networks reach that one.
 */
export const postbackAddress = (network: Network, domain: Domain | undefined): string =>
  `${originOf(domain)}/postback/${network.postback.key}?${postbackQuery(network)}`;
