import type { Domain } from '#core/catalogue';
import { addressOf } from '#core/catalogue';

/** The whole short address. On this machine (`*.localhost`) it is plain http on the server's own port. */
export const shortUrl = (domain: Domain, slug: string): string =>
  domain.host.endsWith('.localhost')
    ? `http://${addressOf({ ...domain, host: `${domain.host}:${location.port}` }, slug)}`
    : `https://${addressOf(domain, slug)}`;
