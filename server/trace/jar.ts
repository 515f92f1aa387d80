/** The cookies of one trace, by host. Nothing of it outlives the trace. */
export class Jar {
  readonly #hosts = new Map<string, Map<string, string>>();

  /** Takes the `Set-Cookie` headers of an answer. A cookie for a whole domain goes to its hosts too (RFC 6265 §5.1.3). */
  take(url: URL, headers: readonly string[]): void {
    for (const header of headers) {
      const [, name = '', value = ''] = /^\s*([^=;\s]+)=([^;]*)/.exec(header) ?? [];
      if (name === '') continue;
      const domain = /;\s*domain=\.?([^;\s]+)/i.exec(header)?.[1]?.toLowerCase();
      const host =
        domain !== undefined && (url.hostname === domain || url.hostname.endsWith(`.${domain}`))
          ? `.${domain}`
          : url.hostname;
      const cookies = this.#hosts.get(host) ?? new Map<string, string>();
      cookies.set(name, value);
      this.#hosts.set(host, cookies);
    }
  }

  /** Names and values a request to an address would carry. */
  entries(url: URL): [string, string][] {
    return [...this.#hosts].flatMap(([host, cookies]) =>
      host === url.hostname || (host.startsWith('.') && `.${url.hostname}`.endsWith(host))
        ? [...cookies]
        : [],
    );
  }

  /** The `Cookie` header for an address; empty when there is none. */
  for(url: URL): string {
    return this.entries(url)
      .map(([name, value]) => `${name}=${value}`)
      .join('; ');
  }
}
