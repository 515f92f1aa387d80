<script setup lang="ts">
import { computed } from 'vue';
import type { Choice } from '#core/catalogue';
import type { Became } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNewest } from '../place/newest.ts';
import { useNotice } from '../shell/notice.ts';
import { becameWords, choiceDid, dayWords } from './words.ts';

/** What was decided before, and what became of it. */
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const most = 6;
const choices = computed(() =>
  catalogue.choices
    .toSorted((a, b) => (a.day < b.day ? 1 : a.day > b.day ? -1 : a.id < b.id ? 1 : -1))
    .slice(0, most),
);
const { found } = useNewest<ReadonlyMap<string, Became | undefined>>(
  () => [journal.news, choices.value, catalogue.costs, catalogue.rates],
  async () => {
    const became = new Map<string, Became | undefined>();
    // One after the other: what is asked of the rows above comes in between.
    for (const choice of JSON.parse(JSON.stringify(choices.value)) as Choice[])
      // as they are now
      became.set(choice.id, await journalWorker.whatBecame({ choice, now: Date.now() }));
    return became;
  },
  new Map(),
);
const addressOf = ({ by, value, from, to }: Choice) => ({
  name: 'decide',
  query: { by, from, to, at: value },
});
const remove = async (id: string) =>
  notice.did('The note is taken away.', await catalogue.save({ kind: 'choice', value: null, id }));
</script>

<template>
  <section v-if="choices.length > 0" aria-labelledby="h-choices">
    <h2 id="h-choices">What you decided</h2>
    <ul>
      <li v-for="one in choices" :key="one.id">
        <span
          ><b>{{ dayWords(one.day) }}</b
          >, {{ choiceDid(one.made) }} <text-link :to="addressOf(one)">{{ one.name }}</text-link><template
            v-if="one.note"
            >: {{ one.note }}</template
          ></span
        >
        <span class="quiet">{{ becameWords(one, found.get(one.id)) }}</span>
        <text-link :aria-label="`Take away the note on ${one.name}`" @click="remove(one.id)"
          >take away</text-link
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}
h2 {
  margin: 0 0 4px;
  font-size: 17px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(140px, 1fr) 2fr auto;
  gap: 2px 14px;
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
@media (max-width: 760px) {
  li {
    grid-template-columns: 1fr;
  }
}
</style>
