import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { PageChoice, Recognised } from '#core/link-parts';
import type { Domain } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { traceOnce } from '../data/trace.ts';
import type { MadeLink, NewLink } from '../links/makeLink.ts';
import { useRegistering } from '../programs/register/registering.ts';
import { useNotice } from './notice.ts';
import type * as tools_ from './pasteTools.ts';
import type { Transfer } from './transfer.ts';

type PasteTools = typeof tools_;

/** Something Enter may do with what stands in the paste bar. */
export interface Choice {
  readonly id: string;
  /** What it is. */
  readonly what: string;
  /** What will happen. */
  readonly will: string;
  /** Parameters of the page, those that go and those that stay; each can be kept. */
  readonly parts?: PageChoice['stripped']['parts'];
  readonly act: () => Promise<void> | void;
}

const stateWords = {
  joined: 'joined',
  pending: 'applied for, not answered yet',
  declined: 'declined',
  'not joined': 'not joined',
};

/** What stands in the paste bar, what it is, and what can be done with it. */
export const usePaste = defineStore('paste', () => {
  const catalogue = useCatalogue();
  const notice = useNotice();
  const journal = useJournal();
  const router = useRouter();
  const text = ref('');
  /** Parameters of the pasted page that stay though they would be taken away. */
  const kept = ref<string[]>([]);
  /** Rises when the bar is to take the focus. */
  const wanted = ref(0);
  const clickOfTransaction = ref<string | undefined>();

  const tools = shallowRef<PasteTools | undefined>();
  const getTools = async () => (tools.value ??= await import('./pasteTools.ts'));

  watch(text, async (now) => {
    void getTools();
    kept.value = [];
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
      notice.say(
        journal.arriving
          ? 'No such click is in this browser yet: the journal is still arriving.'
          : 'No such click is in the journal of this browser.',
      );
      return;
    }
    text.value = '';
    await router.push({ name: 'journey', params: { link: journey.visit.hop.link, click } });
  };
  /** What was pasted and waits until there is a domain for it. */
  const untilDomain = shallowRef<(() => Promise<void>) | undefined>();
  /** The link that was made last: the focus goes to its route. */
  const newest = ref('');
  /** The link that was the first of all: what comes next is told with it, once. */
  const first = ref('');
  const domainOrAsk = async (then: () => Promise<void>): Promise<Domain | undefined> => {
    const [domain] = catalogue.domains;
    if (!domain) {
      untilDomain.value = then;
      await router.push({ name: 'links' });
    }
    return domain;
  };
  /** Makes what was pasted before there was a domain. */
  const goOn = async (): Promise<void> => {
    const then = untilDomain.value;
    untilDomain.value = undefined;
    await then?.();
  };
  const made = async ({ link, step }: MadeLink, domain: Domain) => {
    if (catalogue.links.length === 1) first.value = link.id;
    newest.value = link.id;
    await openLink(link.id);
    notice.did(
      `${domain.host}/${domain.prefix}${link.slug} is made.`,
      step,
      () => void router.push({ name: 'links' }),
    );
  };
  const make = async (from: NewLink): Promise<void> => {
    const domain = await domainOrAsk(() => make(from));
    if (domain) await made(await (await getTools()).makeLink(from, domain), domain);
  };
  const makePage = async (choice: PageChoice): Promise<void> => {
    const domain = await domainOrAsk(() => makePage(choice));
    if (!domain) return;
    if (!choice.made.ok) {
      notice.say(choice.made.message);
      // What is missing is given where it belongs: a code at its program, a tag and a format at their network.
      const lacksCode = choice.made.missing?.some(({ role }) => role === 'program') === true;
      await router.push({
        name: 'programs',
        params: { network: choice.network.id },
        ...(lacksCode && { hash: `#${choice.program.id}` }),
      });
      return;
    }
    // The page is read only where the person allows it; a link is made all the same when it does not answer.
    const facts = catalogue.settings.readPages ? (await traceOnce(choice.stripped.page))?.page : undefined;
    const page = await (await getTools()).makePageLink(choice, domain, facts ?? {});
    if (kept.value.length > 0)
      await catalogue.note('program', {
        ...choice.program,
        keep: [...new Set([...(choice.program.keep ?? []), ...kept.value])],
      });
    if (page) await made(page, domain);
  };
  const register = async (link: string) => {
    useRegistering().begin([link]);
    text.value = '';
    await router.push({ name: 'register' });
  };
  const openMany = async () => {
    await router.push({ name: 'paste' });
  };

  const pageChoice = (choice: PageChoice, several: boolean): Choice => ({
    id: `page-${choice.program.id}`,
    what: [`${choice.program.name} at ${choice.network.name}`, tools.value?.productCode(choice.stripped.page)]
      .filter(Boolean)
      .join(', item '),
    will: choice.made.ok
      ? several
        ? `make it short by ${choice.network.name}`
        : 'make it a deep link'
      : 'cannot be made yet: open what is missing',
    parts: choice.stripped.parts,
    act: () => makePage(choice),
  });

  const choicesOf = (found: Recognised): Choice[] => {
    switch (found.kind) {
      case 'tracking': {
        const { linkParts } = found;
        const name = (linkParts.network ?? linkParts.known)?.name ?? '';
        const what = [found.snippet ? 'A snippet' : undefined, name, linkParts.programName]
          .filter(Boolean)
          .join(', ');
        return [{ id: 'make', what, will: 'make it short', act: () => make(found) }];
      }
      case 'address':
        return [
          {
            id: 'make',
            what: `${found.linkParts.host}, no network of yours`,
            will: 'make it short as it stands',
            act: () => make(found),
          },
          {
            id: 'register',
            what: 'A link of a network you belong to',
            will: 'register the network',
            act: () => register(found.linkParts.link),
          },
          {
            id: 'trace',
            what: 'A shortened or encrypted link',
            will: 'follow it to see what it is',
            act: () => void router.push({ name: 'trace', query: { url: found.linkParts.link } }),
          },
        ];
      case 'page':
        return (tools.value?.pageChoices(found.page, catalogue, kept.value) ?? []).map((choice) =>
          pageChoice(choice, found.choices.length > 1),
        );
      case 'not joined':
        return found.programs.map((program) => ({
          id: `program-${program.id}`,
          what: `${program.name}: ${stateWords[program.state]}`,
          will:
            program.state === 'pending'
              ? 'open the program; no link earns before it answers'
              : 'open the program; apply there first',
          act: () =>
            void router.push({
              name: 'programs',
              params: { network: program.network },
              hash: `#${program.id}`,
            }),
        }));
      case 'many':
        return [
          {
            id: 'many',
            what: `${found.units} lines`,
            will: 'read them one by one',
            act: openMany,
          },
        ];
      case 'short':
        return [
          { id: 'open', what: found.link.title, will: 'open this link', act: () => openLink(found.link.id) },
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
  };
  const choices = computed(
    (): Choice[] => tools.value?.recognise(text.value, catalogue).flatMap(choicesOf) ?? [],
  );
  /** Resolves when what stands in the bar has been recognised. */
  const ready = getTools;

  /** Keeps a parameter of the pasted page, or lets it go again. */
  const keep = (name: string): void => {
    kept.value = kept.value.includes(name) ? kept.value.filter((n) => n !== name) : [...kept.value, name];
  };

  /** Puts a text into the bar and the focus with it. */
  const offer = (pasted: string): void => {
    text.value = pasted.trim();
    wanted.value += 1;
  };

  /** The same with what was pasted or dropped: rich text, files, a picture of a QR code. */
  const offerTransfer = async (transfer: Transfer): Promise<void> => {
    const { text: found, problems } = await (await getTools()).readTransfer(transfer);
    if (found.trim() !== '') offer(found);
    if (problems.length > 0) notice.say(problems.join(' '));
  };

  return { choices, first, goOn, keep, newest, offer, offerTransfer, ready, text, untilDomain, wanted };
});
