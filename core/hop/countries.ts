/**
 * Groups of countries a condition may name, as ISO 3166-1 alpha-2 codes: the members of the European Union, of the
 * European Economic Area and of the euro area (as of 2026, from memory), and the German-speaking countries.
 */
const eu = 'AT BE BG CY CZ DE DK EE ES FI FR GR HR HU IE IT LT LU LV MT NL PL PT RO SE SI SK'.split(' ');

export const countryGroups: Readonly<Record<string, readonly string[]>> = {
  EU: eu,
  EEA: [...eu, 'IS', 'LI', 'NO'],
  EURO: 'AT BE BG CY DE EE ES FI FR GR HR IE IT LT LU LV MT NL PT SI SK'.split(' '),
  DACH: ['DE', 'AT', 'CH'],
};

/** The codes that countries and groups stand for. */
export const countriesIn = (names: readonly string[]): ReadonlySet<string> =>
  new Set(names.flatMap((name) => countryGroups[name] ?? [name]));
