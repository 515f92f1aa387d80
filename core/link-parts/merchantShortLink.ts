import type { Program } from '#core/catalogue';
import { hostOf } from './splitLink.ts';

/**
 * The program whose merchant's own short link an address is.
 *
 * @param before the program it was; it stays where several have the host
 * @returns undefined where no program has the host, or several do
 */
export const programOfShortLink = (
  address: string,
  programs: readonly Program[],
  before?: string,
): Program | undefined => {
  const host = hostOf(address);
  const fitting = programs.filter(({ rules }) => rules?.shortHosts?.includes(host));
  return fitting.find(({ id }) => id === before) ?? (fitting.length === 1 ? fitting[0] : undefined);
};
