import type { HopRecord } from '#core/visits';

const harmless = /^[\x20\x21\x23-\x5b\x5d-\x7e]*$/;

/** A text as JSON, without a detour where it holds nothing to escape. */
const quote = (text: string): string => (harmless.test(text) ? `"${text}"` : JSON.stringify(text));

let lastAt = -1;
let lastText = '';

/** Many hops come in the same millisecond, and a number beyond 32 bits is slow to write. */
const timeText = (at: number): string => {
  if (at !== lastAt) {
    lastAt = at;
    lastText = String(at);
  }
  return lastText;
};

/**
 * Writes a hop as JSON less its first brace and its `seq`. It gives what `JSON.stringify` gives, in half the time: it
 * stands on the path of every click, and its fields are known. What a visitor sent is escaped where it needs it; IDs,
 * source names, hosts and methods were checked before and hold nothing that would need it.
 */
export const hopLine = (hop: Omit<HopRecord, 'seq'>): string =>
  `"kind":"hop","at":${timeText(hop.at)},"click":"${hop.click}","link":"${hop.link}","version":${hop.version},"branch":"${hop.branch}","source":"${hop.source}","status":${hop.status},"method":"${hop.method}","host":"${hop.host}","ua":${quote(
    hop.ua,
  )},"visitor":"${hop.visitor}","country":${quote(hop.country)},"device":"${hop.device}","from":${quote(
    hop.from,
  )},"query":${quote(hop.query)},"lang":${quote(hop.lang)},"prefetch":${hop.prefetch ? 'true' : 'false'},"test":${hop.test ? 'true' : 'false'}${hop.hosting === undefined ? '' : `,"hosting":${hop.hosting ? 'true' : 'false'}`}${hop.first === undefined ? '' : `,"first":"${hop.first}"`}}`;
