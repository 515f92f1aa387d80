import type { PageLinks } from './links.ts';
import type { Settings } from './settings.ts';
import { freshId, pageAddress, tell } from './tell.ts';

/** As many as a beacon may name. */
const mostLinks = 120;

/** Tells, whenever the page goes out of sight, for how long it was in sight by then, how far down it was read, and which links of ours stand on it. */
export const tellReading = (origin: string, { source, first }: Settings, links: PageLinks): void => {
  const view = freshId();
  let [seconds, bottom] = [0, 0];
  let [since, scrolled] = [performance.now(), false];
  const look = (scroll?: Event) => {
    scrolled ||= scroll !== undefined;
    bottom = Math.max(bottom, scrollY + innerHeight);
  };
  addEventListener('scroll', look, { passive: true });
  document.addEventListener('visibilitychange', () => {
    if (!document.hidden) {
      since = performance.now();
      return;
    }
    look();
    seconds += (performance.now() - since) / 1000;
    tell(origin, {
      event: 'read',
      click: view,
      page: pageAddress(),
      seconds: Math.round(seconds),
      depth: Math.round((bottom * 100) / document.documentElement.scrollHeight),
      links: [...links.seen].slice(0, mostLinks),
      source,
      first,
      scrolled,
    });
  });
};
