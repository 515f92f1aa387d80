/** What a response says about being shown in a frame. */
export interface FramingHeaders {
  readonly 'x-frame-options'?: string;
  readonly 'content-security-policy'?: string;
}

/**
 * Says why a page may not be framed by another host; undefined when it may. `frame-ancestors` of the content security
 * policy comes before `X-Frame-Options` (CSP level 3 §6.4.2, RFC 7034).
 *
 * @param host the one that would frame it
 */
export const forbidsFraming = (headers: FramingHeaders, host: string): string | undefined => {
  const policies = (headers['content-security-policy'] ?? '').split(',');
  const lists = policies.flatMap((policy) => {
    const directive = policy
      .split(';')
      .map((text) => text.trim().split(/\s+/))
      .find(([name]) => name?.toLowerCase() === 'frame-ancestors');
    return directive ? [directive.slice(1)] : [];
  });
  const lets = (source: string): boolean => {
    const text = source.toLowerCase();
    if (text === '*' || text === 'http:' || text === 'https:') return true;
    const bare = text.replace(/^https?:\/\//, '').replace(/[:/].*$/, '');
    return bare.startsWith('*.') ? host.endsWith(bare.slice(1)) : bare === host;
  };
  const against = lists.find((sources) => !sources.some(lets));
  if (against) return `It says “frame-ancestors ${against.join(' ') || "'none'"}”.`;
  if (lists.length > 0) return undefined;
  const option = (headers['x-frame-options'] ?? '').trim();
  return /^(?:deny|sameorigin)\b/i.test(option) ? `It says “X-Frame-Options: ${option}”.` : undefined;
};
