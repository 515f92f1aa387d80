import { campaignParameter } from './campaign.ts';

/** Names of parameters that say nothing of where an address leads, by host; they hold for the hosts below it too. */
export type DroppedParameters = Readonly<Record<string, readonly string[]>>;

const isDropped = (host: string, name: string, dropped: DroppedParameters): boolean =>
  Object.keys(dropped).some((each) => `.${host}`.endsWith(`.${each}`) && dropped[each]?.includes(name));

/**
 * By what two addresses of one page are the same: scheme, port, `www.`, a slash at the end, the fragment, the order of parameters, and
 * campaign and session parameters tell nothing. Empty for what is no address of the web.
 */
export const addressKey = (address: string, dropped: DroppedParameters = {}): string => {
  if (!/^https?:\/\//i.test(address) || !URL.canParse(address)) return '';
  const { hostname, pathname, search } = new URL(address);
  const host = hostname.replace(/^www\./, '');
  const path = pathname
    .replace(/;([^;/=]+)=[^;/]*/g, (whole, name: string) => (campaignParameter.test(name) ? '' : whole))
    .replace(/\/+$/, '');
  const kept = search
    .slice(1)
    .split('&')
    .filter((raw) => {
      const name = raw.split('=')[0] ?? '';
      return raw !== '' && !campaignParameter.test(name) && !isDropped(host, name, dropped);
    });
  return `${host}${path}${kept.length === 0 ? '' : `?${kept.sort().join('&')}`}`;
};

/** A short name of a key, for a list of addresses that is not to be read as one: FNV-1a, 64 bits (Fowler, Noll, Vo). */
export const shortKey = (key: string): string => fnv1a(key).toString(36).slice(-9);

/** FNV-1a of the bytes of a text in UTF-8, 64 bits. */
export const fnv1a = (text: string): bigint => {
  let hash = 0xcbf29ce484222325n;
  for (const byte of new TextEncoder().encode(text))
    hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash;
};
