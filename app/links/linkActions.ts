import { watch } from 'vue';
import { useRouter } from 'vue-router';
import type { Link } from '#core/catalogue';
import { clipOf, noDisclosure } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { getAbout } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { shortUrl } from './address.ts';
import { usePlacing } from './copying/placing.ts';

const testWaitMs = 10_000;

/** What can be done with a link from its row and its route. */
export const useLinkActions = () => {
  const catalogue = useCatalogue();
  const journal = useJournal();
  const notice = useNotice();
  const router = useRouter();
  const { placingOf } = usePlacing();

  const copy = async (link: Link): Promise<void> => {
    const domain = catalogue.domain(link.domain);
    if (!domain) return;
    const placing = placingOf(link, domain);
    if ('refused' in placing) {
      notice.say(`Nothing is copied. ${placing.refused}`);
      return;
    }
    const short = placing.restrictions.find((h) => h.what === 'short');
    await notice.copy(
      clipOf('link', { link: placing.link, disclosure: noDisclosure }),
      short
        ? `The destination itself is copied. ${short.because}`
        : `${domain.host}/${domain.prefix}${link.slug} is copied.`,
    );
  };

  /** Opens the link in a new tab with the test token, and its journey here once it is in the journal. */
  const test = async (link: Link): Promise<void> => {
    const domain = catalogue.domain(link.domain);
    if (!domain) return;
    if (catalogue.where(link.id) === 'here') {
      notice.say(
        'The link is not live yet, so there is nothing to test. It goes live when the server has taken it.',
      );
      return;
    }
    const tab = window.open('about:blank', '_blank');
    try {
      const { testToken } = await getAbout();
      const since = await journalWorker.seq();
      const address = `${shortUrl(domain, link)}?test=${testToken}`;
      if (tab) {
        tab.opener = null;
        tab.location.href = address;
      } else notice.say(`The browser blocked the new tab. Open it by hand: ${address}`);
      const stop = watch(
        () => journal.news,
        async () => {
          const { visits } = await journalWorker.recent(link.id, 5);
          const visit = visits.find(({ hop, outcome }) => outcome === 'test' && hop.seq > since);
          if (!visit) return;
          stop();
          await router.push({ name: 'journey', params: { link: link.id, click: visit.hop.click } });
        },
      );
      setTimeout(stop, testWaitMs);
    } catch {
      tab?.close();
      notice.say('The server did not answer, so the link cannot be tested now.');
    }
  };

  return { copy, test };
};
