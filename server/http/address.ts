/**
 * An address as networks and tables write it: an IPv4 one that a socket for both kinds names in the form of IPv6
 * (`::ffff:192.0.2.10`, RFC 4291 §2.5.5.2) is the IPv4 one again.
 */
export const bareAddress = (address: string): string =>
  address.startsWith('::ffff:') && address.includes('.') ? address.slice('::ffff:'.length) : address;
