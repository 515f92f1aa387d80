import { ulidAlphabet } from '#core/catalogue';

/** A fresh ID in the form of a click ID: a ULID. */
export const freshId = (): string => {
  let id = '';
  for (let at = Date.now(); id.length < 10; at = Math.floor(at / 32)) id = ulidAlphabet.charAt(at % 32) + id;
  for (const byte of crypto.getRandomValues(new Uint8Array(16))) id += ulidAlphabet.charAt(byte % 32);
  return id;
};

/** The page's own address: the canonical one where that is on the same site, without what stands after `?` and `#`. */
export const pageAddress = (): string => {
  const canonical = document.querySelector<HTMLLinkElement>('link[rel~=canonical]')?.href ?? '';
  const { origin, pathname } = location;
  return (canonical.startsWith(`${origin}/`) ? canonical.replace(/[?#].*/s, '') : origin + pathname).slice(
    0,
    900,
  );
};

/** Tells the link domain something; where the page's policy forbids it, nothing is told. */
export const tell = (origin: string, body: object): void => {
  navigator.sendBeacon(`${origin}/beacon`, JSON.stringify(body));
};
