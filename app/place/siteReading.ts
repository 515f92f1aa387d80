import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import type { Page } from '#core/catalogue';
import type { LeftPage } from '#core/link-parts';
import { pageId } from '#core/where-used';
import { useCatalogue } from '../data/catalogue.ts';
import { crawlSteps } from '../data/crawl.ts';
import { useArticleReading } from './articleReading.ts';

/** So many pages are kept together: each time is a call to the server. */
const keptTogether = 25;

/** The address of a site as a person types it; undefined for what is none. */
export const siteIn = (typed: string): string | undefined => {
  const text = typed.trim();
  const address = /^https?:\/\//i.test(text) ? text : `https://${text}`;
  if (!URL.canParse(address)) return undefined;
  const { hostname, href } = new URL(address);
  return hostname.includes('.') ? href : undefined;
};

/** The reading of a person's own site, which goes on while they look at something else. */
export const useSiteReading = defineStore('siteReading', () => {
  const catalogue = useCatalogue();
  const reading = useArticleReading();
  const site = ref('');
  /** Pages that were read, and those of them with links of ours. */
  const pages = ref(0);
  const withLinks = ref(0);
  const left = shallowRef<readonly LeftPage[]>([]);
  /** Why it ended before all was read, or could not begin; empty where it did not. */
  const because = ref('');
  const stop = shallowRef<AbortController>();
  const running = computed(() => stop.value !== undefined);
  const ended = ref(false);

  /** A page that was there and is gone carries nothing any more. */
  const forget = async (gone: readonly string[]): Promise<void> => {
    const ids = new Set(gone.map((name) => pageId({ name })));
    await catalogue.noteAll(
      catalogue.pages.flatMap(({ id }) => (ids.has(id) ? [{ kind: 'page' as const, value: null, id }] : [])),
    );
  };

  /** Reads a site; ends when all of it was read, or it was stopped. */
  const read = async (address: string): Promise<void> => {
    if (running.value) return;
    const own = new AbortController();
    [site.value, pages.value, withLinks.value, left.value] = [address, 0, 0, []];
    [because.value, ended.value, stop.value] = ['', false, own];
    let some: Page[] = [];
    const keep = async (): Promise<void> => {
      const now = some;
      some = [];
      await reading.keepPages(now);
    };
    try {
      for await (const step of crawlSteps(address, own.signal)) {
        if (step.kind === 'page') {
          const worker = await reading.worker();
          const page = await worker.readPage(step.url, step.html, Date.now());
          pages.value += 1;
          if (page.links.length > 0) withLinks.value += 1;
          some.push(page);
          if (some.length >= keptTogether) await keep();
        } else if (step.kind === 'left') left.value = [...left.value, step];
        else because.value = step.because;
      }
    } catch (fault) {
      because.value = own.signal.aborted
        ? 'You stopped it.'
        : fault instanceof Error
          ? fault.message
          : String(fault);
    } finally {
      await keep();
      await forget(left.value.filter(({ status }) => status === 404 || status === 410).map(({ url }) => url));
      stop.value = undefined;
      ended.value = true;
    }
  };
  return { because, end: () => stop.value?.abort(), ended, left, pages, read, running, site, withLinks };
});
