import { computed } from 'vue';
import { dayIn, dayName, dayNumber, momentOf } from '#core/hop';
import { useCatalogue } from './catalogue.ts';
import { figureDays, useJournal } from './journal.ts';

/** The person's own days, as the journal counts them: those of the domain with the smallest ID. */
export const useOwnDays = () => {
  const catalogue = useCatalogue();
  const journal = useJournal();
  const zone = computed(() => catalogue.domains.toSorted((a, b) => (a.id < b.id ? -1 : 1))[0]?.zone ?? 'UTC');
  // A window may stay open over midnight.
  const today = computed(() => (journal.news, dayIn(zone.value, Date.now())));
  const period = computed((): readonly [from: string, to: string] => [
    dayName(dayNumber(today.value) - figureDays + 1),
    today.value,
  ]);
  return {
    /** First and last day of those that figures speak of, `2026-10-24`. */
    period,
    /** When the first of them begins, in milliseconds since 1970 UTC. */
    since: computed(() => momentOf(zone.value, `${period.value[0]}T00:00`)),
  };
};
