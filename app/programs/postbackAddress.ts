import type { Domain, Network } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';

/**
 * The address to set at a network: our postback address with the network's own placeholders. It stands on a link
 * domain, since networks reach that one; on this machine on plain http.
 */
export const postbackAddress = (network: Network, domain: Domain | undefined): string => {
  const origin =
    domain === undefined || domain.host.endsWith('.localhost')
      ? `http://${domain?.host ?? 'localhost'}:${location.port}`
      : `https://${domain.host}`;
  const query = postbackFields
    .flatMap((field) => {
      const placeholder = network.postback.placeholders[field];
      // Placeholders stay as they are: the network looks for them letter by letter.
      return placeholder
        ? [`${encodeURIComponent(network.postback.fields[field] ?? field)}=${placeholder}`]
        : [];
    })
    .join('&');
  return `${origin}/postback/${network.postback.key}?${query}`;
};
