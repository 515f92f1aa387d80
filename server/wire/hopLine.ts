import type { HopRecord } from '#core/visits';

const harmless = /^[\x20\x21\x23-\x5b\x5d-\x7e]*$/;

const plain = (text: string): string => `"${text}"`;

/**
 * Writes a hop as JSON less its first brace and its `seq`. It gives what `JSON.stringify` gives, in half the time: it
 * stands on the path of every click, and its fields are known. What a visitor sent is escaped where it needs it, which
 * is found out at once for all of it; IDs, source names, hosts and methods were checked before and hold nothing that
 * would need it.
 */
export const hopLine = (hop: Omit<HopRecord, 'seq'>): string => {
  const { ua, country, from, query, lang } = hop;
  const quote: (text: string) => string = harmless.test(ua + country + from + query + lang)
    ? plain
    : JSON.stringify;
  return `"kind":"hop","at":${hop.at},"click":"${hop.click}","link":"${hop.link}","edition":${hop.edition},"branch":"${hop.branch}","source":"${hop.source}","status":${hop.status},"method":"${hop.method}","host":"${hop.host}","ua":${quote(
    ua,
  )},"visitor":"${hop.visitor}","country":${quote(country)},"device":"${hop.device}","from":${quote(
    from,
  )},"query":${quote(query)},"lang":${quote(lang)},"prefetch":${hop.prefetch},"test":${hop.test}}`;
};
