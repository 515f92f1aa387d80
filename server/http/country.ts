import { createRequire } from 'node:module';
import { open } from 'maxmind';
import { bareAddress } from './address.ts';

/** Addresses whose country is remembered: the same ones ask again and again, machines above all. */
const mostKnown = 10_000;

/** Gives the country of an address, ISO 3166-1 alpha-2, or an empty text when it is unknown. */
export type CountryOf = (address: string) => string;

/** Of the codes that ISO 3166-1 leaves to its users, those that are written for a country that is not known (common practice). */
const unknownCodes = new Set(['XX', 'ZZ']);

/**
 * A country as it was told, in capitals; empty where it is no code of two letters: the beginning of a name or of a longer code is
 * another country's.
 */
export const countryCode = (told: unknown): string => {
  const code = typeof told === 'string' ? told.trim().toUpperCase() : '';
  return /^[A-Z]{2}$/.test(code) && !unknownCodes.has(code) ? code : '';
};

const codeIn = (found: unknown): string => {
  if (typeof found !== 'object' || found === null) return '';
  if ('country_code' in found) return countryCode(found.country_code);
  if ('country' in found) {
    const { country } = found;
    if (typeof country === 'object' && country !== null && 'iso_code' in country)
      return countryCode(country.iso_code);
  }
  return '';
};

/**
 * Opens a country table: the one that ships, or an own `.mmdb` file.
 *
 * @throws Error when the file is no such table
 */
export const openCountries = async (path: string | undefined): Promise<CountryOf> => {
  const file =
    path ??
    createRequire(import.meta.url).resolve(
      '@ip-location-db/geo-whois-asn-country-mmdb/geo-whois-asn-country.mmdb',
    );
  const reader = await open(file);
  const find: CountryOf = (address) => {
    try {
      return codeIn(reader.get(bareAddress(address)));
    } catch {
      return '';
    }
  };
  const known = new Map<string, string>();
  return (address) => {
    let code = known.get(address);
    if (code === undefined) {
      if (known.size >= mostKnown) known.clear();
      known.set(address, (code = find(address)));
    }
    return code;
  };
};
