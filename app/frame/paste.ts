import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { Anatomy } from '#core/anatomy';
import { recognise } from '#core/anatomy';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker } from '../data/journal.ts';
import { makeLink } from '../links/makeLink.ts';
import { useNotice } from './notice.ts';

/** Something Enter may do with what stands in the paste bar. */
export interface Choice {
  readonly id: string;
  /** What it is. */
  readonly what: string;
  /** What will happen. */
  readonly will: string;
  readonly act: () => Promise<void> | void;
}

/** What stands in the paste bar, what it is, and what can be done with it. */
export const usePaste = defineStore('paste', () => {
  const catalogue = useCatalogue();
  const notice = useNotice();
  const router = useRouter();
  const text = ref('');
  /** Rises when the bar is to take the focus. */
  const wanted = ref(0);
  const clickOfTransaction = ref<string | undefined>();

  watch(text, async (now) => {
    clickOfTransaction.value = undefined;
    const words = now.trim();
    if (words === '' || /\s|\//.test(words)) return;
    const click = await journalWorker.clickOfTransaction(words);
    if (text.value === now) clickOfTransaction.value = click;
  });

  const openLink = async (id: string) => {
    text.value = '';
    await router.push({ name: 'links', params: { link: id } });
  };
  const openClick = async (click: string) => {
    const journey = await journalWorker.journey(click);
    if (!journey) {
      notice.say('No such click is in the journal of this browser.');
      return;
    }
    text.value = '';
    await router.push({ name: 'journey', params: { link: journey.visit.hop.link, click } });
  };
  const make = async (anatomy: Anatomy) => {
    const [domain] = catalogue.domains;
    if (!domain) {
      notice.say('First say which domain of yours the short link is on. What you pasted stays in the bar.');
      await router.push({ name: 'setup', hash: '#domains' });
      return;
    }
    const link = await makeLink(anatomy, domain);
    await openLink(link.id);
    notice.say(`${domain.host}/${domain.prefix}${link.slug} is made.`, () => {
      void catalogue.undo();
      void router.push({ name: 'links' });
    });
  };

  const choices = computed((): Choice[] =>
    recognise(text.value, catalogue).flatMap((found): Choice[] => {
      switch (found.kind) {
        case 'tracking': {
          const { anatomy } = found;
          const name = (anatomy.network ?? anatomy.known)?.name ?? '';
          const what = [name, anatomy.programName].filter(Boolean).join(', ');
          return [{ id: 'make', what, will: 'make it short', act: () => make(anatomy) }];
        }
        case 'address':
          return [
            {
              id: 'make',
              what: `${found.anatomy.host}, no network of yours`,
              will: 'make it short as it stands',
              act: () => make(found.anatomy),
            },
          ];
        case 'short':
          return [
            {
              id: 'open',
              what: found.link.title,
              will: 'open this link',
              act: () => openLink(found.link.id),
            },
          ];
        case 'click':
          return [
            { id: 'click', what: 'A click ID', will: 'open its journey', act: () => openClick(found.click) },
          ];
        case 'words': {
          const click = clickOfTransaction.value;
          return [
            ...(click === undefined
              ? []
              : [{ id: 'txn', what: 'A transaction', will: 'open its click', act: () => openClick(click) }]),
            ...found.links.slice(0, 6).map((link) => ({
              id: link.id,
              what: link.title,
              will: `open ${link.slug}`,
              act: () => openLink(link.id),
            })),
          ];
        }
      }
    }),
  );

  /** Puts a text into the bar and the focus with it. */
  const offer = (pasted: string): void => {
    text.value = pasted.trim();
    wanted.value += 1;
  };

  return { choices, offer, text, wanted };
});
