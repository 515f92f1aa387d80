import type { Link } from '#core/catalogue';
import { foldText } from '#core/catalogue';

/** What each link is searched in: folded, made once as long as the link stays the same. */
const searched = new WeakMap<Link, readonly [string, string, string]>();
const placesOf = (link: Link): readonly [string, string, string] => {
  let places = searched.get(link);
  if (!places) {
    const rest = [link.destination, link.notes, link.group, ...(link.tags ?? []), ...link.aliases];
    places = [link.slug, foldText(link.title), foldText(rest.join(' '))];
    searched.set(link, places);
  }
  return places;
};

/** Links that hold every word somewhere, best first: in the slug, then in the title, then in anything else. */
export const searchLinks = (words: string, links: readonly Link[]): Link[] => {
  const wanted = foldText(words).split(/\s+/).filter(Boolean);
  const rank = (link: Link): number => {
    const places = placesOf(link);
    let worst = 0;
    for (const word of wanted) {
      const place = places.findIndex((text) => text.includes(word));
      if (place < 0) return -1;
      worst = Math.max(worst, place);
    }
    return worst;
  };
  return links
    .map((link) => ({ link, rank: rank(link) }))
    .filter((found) => found.rank >= 0)
    .sort((a, b) => a.rank - b.rank)
    .map((found) => found.link);
};
