import type { Link } from '#core/catalogue';
import { newDomain } from '#core/catalogue';

/** A domain of links to test with; it answers on this machine. */
export const testDomain = newDomain('dom_see', 'see.nightledge.localhost', 'UTC');

/** A link of that domain, of its slug's name, with whatever is given over the defaults. */
export const testLink = (slug: string, more: Partial<Link> = {}): Link => ({
  id: `lnk_${slug}`,
  domain: testDomain.id,
  slug,
  aliases: [],
  title: slug,
  destination: `https://shop.example/${slug}?c={click}`,
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
  ...more,
});
