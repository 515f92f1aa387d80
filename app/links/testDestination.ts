import type { Link } from '#core/catalogue';
import { compileDestination, expand } from '#core/hop';

/** What a traced link carries where a click ID or a source would stand, so that a network's report shows it as ours. */
export const testLabel = 'fernhop-test';

/** A link's destination with its tokens filled for a test. */
export const testDestination = (link: Pick<Link, 'id' | 'destination' | 'asText'>): string => {
  const compiled = compileDestination(link.destination, link.asText);
  if (!compiled.ok) return link.destination;
  return expand(compiled.value, (name) => {
    if (name === 'link') return link.id;
    if (name === 'day') return new Date().toISOString().slice(0, 10);
    return name === 'click' || name === 'source' ? testLabel : '';
  });
};
