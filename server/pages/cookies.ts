import { CookieJar } from 'tough-cookie';

/** The cookies of one trace. Nothing of it outlives the trace. */
export class Cookies {
  // The hosts of simulated networks end in `.localhost`, which the jar refuses unless it is told.
  readonly #jar = new CookieJar(undefined, { allowSpecialUseDomain: true, looseMode: false });

  /** Takes the `Set-Cookie` headers of an answer; one that may not be set there is passed over (RFC 6265 §5.3). */
  take(url: URL, headers: readonly string[]): void {
    for (const header of headers) this.#jar.setCookieSync(header, url.href, { ignoreError: true });
  }

  /** Names and values a request to an address would carry. */
  entries(url: URL): [name: string, value: string][] {
    return this.#jar.getCookiesSync(url.href).map(({ key, value }) => [key, value]);
  }

  /** The `Cookie` header for an address; empty when there is none. */
  for(url: URL): string {
    return this.#jar.getCookieStringSync(url.href);
  }
}
