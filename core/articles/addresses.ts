/**
 * An address as a browser reads it from an attribute: without white space around it and line ends in it, whole where there is a
 * base (WHATWG URL standard, basic URL parser; HTML standard, §2.4.3). Its other bytes stay as they are.
 */
export const resolved = (raw: string, base: string | undefined): string => {
  const isSpace = (at: number) => raw.charCodeAt(at) <= 32;
  let [start, end] = [0, raw.length];
  while (start < end && isSpace(start)) start += 1;
  while (end > start && isSpace(end - 1)) end -= 1;
  const address = raw.slice(start, end).replace(/[\t\n\r]/g, '');
  if (/^https?:/i.test(address)) return address;
  // Of what it stands in it has the scheme; where that is not known, the web's usual one.
  if (address.startsWith('//')) return `${/^http:/i.test(base?.trim() ?? '') ? 'http:' : 'https:'}${address}`;
  if (
    base === undefined ||
    !/^(?:https?:)?\/\//i.test(base.trim()) ||
    address === '' ||
    address.startsWith('#')
  )
    return address;
  try {
    return new URL(address, resolved(base, undefined)).href;
  } catch {
    return address;
  }
};

/** True for an address that a browser fetches from the web. */
export const isWeb = (address: string): boolean => /^https?:\/\/[^/]/i.test(address);
