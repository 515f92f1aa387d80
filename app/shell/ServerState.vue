<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import { useSeals } from '../data/seals.ts';

const catalogue = useCatalogue();
const seals = useSeals();
/** The journal is not what was sealed, or its chain is not the one this browser keeps seals of. */
const isAltered = computed(() => seals.missing !== undefined || seals.isDamaged);
const state = computed((): { tone: string; words: string; detail: string } => {
  const { length } = catalogue.links;
  const here = catalogue.waitingCount;
  const stuck = catalogue.stuck.length;
  if (catalogue.otherServer)
    return { tone: 'bad', words: 'Another server: choose', detail: 'Say what is to become of what is here.' };
  if (catalogue.server === 'not our server')
    return {
      tone: 'bad',
      words: 'Not our server',
      detail: 'Something else answers in the place of the server, such as a sign-in page.',
    };
  if (catalogue.server === 'cannot write')
    return { tone: 'bad', words: 'Server cannot write', detail: catalogue.serverProblem };
  if (catalogue.server === 'no key')
    return {
      tone: 'bad',
      words: 'Key needed: see Setup',
      detail: 'The server wants the key it printed at its start.',
    };
  if (catalogue.server === 'away')
    return {
      tone: 'bad',
      words: here > 0 ? `Server away: ${here} ${here === 1 ? 'edit waits' : 'edits wait'}` : 'Server away',
      detail: 'Edits are saved in this browser and go live when it is back.',
    };
  if (stuck > 0)
    return {
      tone: 'bad',
      words: `${stuck} not live: look`,
      detail: 'The server did not take an edit, or somebody changed the same. Open the list to settle it.',
    };
  if (isAltered.value)
    return {
      tone: 'bad',
      words: 'Journal altered: see Setup',
      detail: 'What the server holds is not what was sealed. Setup says more, under Evidence.',
    };
  if (catalogue.server === 'asking') return { tone: 'wait', words: 'Asking the server', detail: '' };
  if (here > 0)
    return { tone: 'wait', words: `${here} saved here, not live`, detail: 'On the way to the server.' };
  if (length === 0) return { tone: 'good', words: 'Server ready', detail: '' };
  return { tone: 'good', words: length === 1 ? 'The link is live' : `All ${length} links live`, detail: '' };
});
/** What waits is listed; the key and the server are seen to in Setup. */
const to = computed(() =>
  catalogue.server === 'no key' ||
  (isAltered.value && catalogue.server === 'up' && catalogue.stuck.length === 0) ||
  (catalogue.waiting.size === 0 && !catalogue.otherServer && state.value.tone === 'good')
    ? '/setup'
    : '/waiting',
);
</script>

<template>
  <router-link class="state" :class="state.tone" :to="to">
    <span class="dot" aria-hidden="true" /><span role="status">{{ state.words }}</span
    ><hint>{{ state.detail }}</hint>
  </router-link>
</template>

<style scoped>
.state {
  display: flex;
  align-items: center;
  gap: 8px;
  white-space: nowrap;
  color: var(--ink);
  text-decoration: none;
}
.dot {
  width: 9px;
  height: 9px;
  border-radius: 70% 10%;
  background: var(--fern);
}
.bad {
  color: var(--copper);
  font-weight: 600;
}
.bad .dot {
  background: var(--copper);
}
.wait .dot {
  background: none;
  border: 1.5px solid var(--copper);
}
</style>
