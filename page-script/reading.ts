import type { PageLinks } from './links.ts';
import { freshId, pageAddress, tell } from './tell.ts';

/** As many as a beacon may name. */
const mostLinks = 120;

/** Tells, whenever the page goes out of sight, for how long it was in sight by then, how far down it was read, and which links of ours stand on it. */
export const tellReading = (origin: string, source: string, links: PageLinks): void => {
  const view = freshId();
  let [seconds, bottom, told] = [0, 0, -1];
  let since = performance.now();
  const look = () => (bottom = Math.max(bottom, scrollY + innerHeight));
  addEventListener('scroll', look, { passive: true });
  document.addEventListener('visibilitychange', () => {
    if (!document.hidden) {
      since = performance.now();
      return;
    }
    look();
    seconds += (performance.now() - since) / 1000;
    const whole = Math.round(seconds);
    if (whole === told) return;
    told = whole;
    tell(origin, {
      event: 'read',
      click: view,
      page: pageAddress(),
      seconds: whole,
      depth: Math.min(100, Math.round((bottom * 100) / document.documentElement.scrollHeight)),
      links: [...links.seen].slice(0, mostLinks),
      source,
    });
  });
};
