import { onScopeDispose, ref, shallowRef, watch } from 'vue';
import type { EarnedBand, PaysQuestion } from '#core/queries';
import { rangePerClick } from '../theme/formats.ts';
import { useCatalogue } from './catalogue.ts';
import { journalWorker, useJournal } from './journal.ts';

/**
 * They move slowly and take a while to find: with visits coming in they are asked for this often, in milliseconds. A server that answers
 * for a browser is asked once for each question, since its journal is large and others ask it too.
 */
const pauseMs = 20_000;

/**
 * What a click earns by what visits are told apart by, at worst and at best once all that is still to come has come.
 *
 * @param question undefined while nothing is to be asked
 */
export const useEarnedBands = (question: () => Omit<PaysQuestion, 'currency' | 'now'> | undefined) => {
  const catalogue = useCatalogue();
  const journal = useJournal();
  const bands = shallowRef<ReadonlyMap<string, EarnedBand>>(new Map());
  const turn = ref(0);
  let timer: ReturnType<typeof setTimeout> | undefined;
  watch(
    () => [journal.news, catalogue.costs, catalogue.rates],
    () => {
      if (journal.byServer) return;
      timer ??= setTimeout(() => {
        timer = undefined;
        turn.value += 1;
      }, pauseMs);
    },
  );
  onScopeDispose(() => clearTimeout(timer));
  let asked = 0;
  watch(
    () => {
      const now = journal.loaded && !journal.arriving ? question() : undefined;
      return [now && JSON.stringify(now), catalogue.settings.currency, turn.value] as const;
    },
    async ([text, currency], before) => {
      const mine = (asked += 1);
      // Another question's bands are not this one's.
      if (text !== before?.[0] || currency !== before?.[1]) bands.value = new Map();
      if (text === undefined) return;
      const plain = JSON.parse(text) as Omit<PaysQuestion, 'currency' | 'now'>; // as it was
      const found = await journalWorker.earnedBands({ ...plain, currency, now: Date.now() });
      if (mine === asked) bands.value = new Map(found.map((band) => [band.value, band]));
    },
    { immediate: true },
  );
  /** In words, of a value with so many clicks, beside a figure in a currency; undefined where nothing can be said in it. */
  return (value: string, clicks: number, currency: string | undefined): string | undefined => {
    const band = bands.value.get(value);
    if (!band || clicks === 0 || currency !== catalogue.settings.currency) return undefined;
    const each = (end: number) => (end * band.visitors) / clicks;
    return rangePerClick(each(band.low), each(band.high), currency);
  };
};
