import type { ScriptTable } from '#core/articles';
import { listenToClicks } from './clicks.ts';
import { PageLinks } from './links.ts';
import { tellReading } from './reading.ts';
import { settingsOf } from './settings.ts';
import { inSlices, nextFrame } from './slices.ts';
import { Texts } from './texts.ts';
import { PageWords } from './words.ts';

/** What was added waits so long, in milliseconds, for more to come. */
const gatherMs = 100;
/** Most times that what was added is looked at: a page that takes our links out again as often is left alone then. */
const mostRounds = 5000;

/**
 * Places links on the page that is read, and counts their clicks: what `/place.js` of a link domain does. Where anything fails, the
 * page stays as it is by then.
 *
 * @param data the attributes of the script's element
 */
const place = (data: DOMStringMap, table: ScriptTable): void => {
  const settings = settingsOf(data, table);
  const links = new PageLinks(table, settings);
  listenToClicks(table, settings, links);
  if (settings.counts('reading')) tellReading(table.origin, settings, links);

  const work = async (): Promise<void> => {
    await nextFrame();
    const texts = new Texts(links);
    const words = new PageWords(table, settings, links, texts);
    /** Looks at a part of the page; what was looked at before is passed over. */
    const lookAt = async (root: Element): Promise<void> => {
      const anchors = [root, ...root.querySelectorAll('a[href]')].values();
      await inSlices(() => {
        const { value: anchor, done } = anchors.next();
        if (anchor instanceof HTMLAnchorElement) words.count(anchor);
        return done !== true;
      });
      if (!settings.does('keywords')) return;
      for (const part of root.closest(settings.within) ? [root] : root.querySelectorAll(settings.within)) {
        const groups = texts.groups(part);
        await inSlices(() => {
          const { value: group, done } = groups.next();
          if (group) words.read(group);
          return done !== true;
        });
      }
      await inSlices(() => words.step());
    };

    let waiting: Set<Element> | undefined;
    let rounds = 0;
    await nextFrame();
    let turn = lookAt(document.body);
    const observer = new MutationObserver((records) => {
      if (!waiting) {
        const found = (waiting = new Set());
        setTimeout(() => {
          waiting = undefined;
          turn = turn.then(async () => {
            for (const root of found) if (root.isConnected) await lookAt(root);
            if (++rounds > mostRounds) observer.disconnect();
          });
          turn.catch(() => observer.disconnect());
        }, gatherMs);
      }
      for (const { addedNodes } of records)
        for (const node of addedNodes) {
          const root = node instanceof Element ? node : node.parentElement;
          if (root) waiting.add(root);
        }
    });
    observer.observe(document.body, { childList: true, subtree: true });
    await turn;
  };
  const begin = () => void work().catch(() => undefined);
  if (document.readyState === 'loading') document.addEventListener('DOMContentLoaded', begin);
  else begin();
};

export default place;
