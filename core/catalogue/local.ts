/** True for a name of this machine: `localhost` and everything under it (RFC 6761 §6.3). */
export const isLocalHost = (host: string): boolean => host === 'localhost' || host.endsWith('.localhost');

/** Where a host's addresses begin: on this machine plain http on the server's own port, elsewhere https. */
export const originOfHost = (host: string, port: number | string): string =>
  isLocalHost(host) ? `http://${host}:${port}` : `https://${host}`;
