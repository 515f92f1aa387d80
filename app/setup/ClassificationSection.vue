<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { defaultRules } from '#core/visits';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

/** What counts as a visit. The journal stays as it is; a change counts the past anew. */
const catalogue = useCatalogue();
const notice = useNotice();
const draft = ref({ ...defaultRules, robots: '', ownByTest: false });
const problem = ref('');
watch(
  () => catalogue.settings.classification,
  (rules) =>
    (draft.value = {
      ...defaultRules,
      ownByTest: false,
      ...rules,
      robots: rules?.robots.join('\n') ?? '',
    }),
  { immediate: true },
);
const rules = computed(() => ({
  repeatMinutes: Math.round(Number(draft.value.repeatMinutes)),
  burstRequests: Math.round(Number(draft.value.burstRequests)),
  burstSeconds: Math.round(Number(draft.value.burstSeconds)),
  robots: draft.value.robots
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean),
  ...(draft.value.ownByTest && { ownByTest: true }),
}));
const changed = computed(
  () =>
    JSON.stringify(rules.value) !==
    JSON.stringify({ ...defaultRules, robots: [], ...catalogue.settings.classification }),
);
const save = async () => {
  const next = { ...catalogue.settings, classification: rules.value };
  const checked = checkRecord('settings', next);
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  notice.did('The past is counted anew by these rules.', await catalogue.saveRecord('settings', next));
};
</script>

<template>
  <section aria-labelledby="h-classification">
    <h2 id="h-classification">What counts as a visit</h2>
    <p class="quiet">
      Nothing is thrown away: every request stays in the journal, and a change here counts the past anew.
    </p>
    <form @submit.prevent="save">
      <v-text-field
        v-model="draft.repeatMinutes"
        type="number"
        min="0"
        max="1440"
        label="Minutes in which the same visitor on the same link counts once"
      />
      <div class="two">
        <v-text-field
          v-model="draft.burstRequests"
          type="number"
          min="2"
          label="More requests of one visitor than this"
        />
        <v-text-field
          v-model="draft.burstSeconds"
          type="number"
          min="1"
          label="within so many seconds are a machine’s"
        />
      </div>
      <v-textarea
        v-model="draft.robots"
        class="mono"
        rows="1"
        auto-grow
        label="Pieces of user agents that are robots too, one a line"
        :error-messages="problem"
      />
      <v-checkbox
        v-model="draft.ownByTest"
        label="Whoever opens a test hop is one of us: what they ask for that day, or as long as the cookie lives, is a test"
      />
      <v-btn v-if="changed" type="submit" color="primary">Count anew</v-btn>
    </form>
  </section>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
  justify-items: start;
}
form > :not(button) {
  width: 100%;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
p {
  margin: 0;
}
</style>
