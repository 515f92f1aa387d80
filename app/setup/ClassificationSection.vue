<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { defaultRules } from '#core/visits';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { moment } from '../theme/formats.ts';

/** What counts as a visit. The journal stays as it is; a change counts the past anew. */
const catalogue = useCatalogue();
const notice = useNotice();
interface Draft {
  repeatMinutes: number | null;
  burstRequests: number | null;
  burstSeconds: number | null;
  robots: string;
  ownByTest: boolean;
}
const draft = ref<Draft>({ ...defaultRules, robots: '', ownByTest: false });
const problem = ref('');
/** What is treated as machines': chosen in Traffic, and let go here. */
const machines = computed(() => catalogue.settings.classification?.machines ?? []);
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
  // A field that is empty is no nought: it is refused.
  repeatMinutes: draft.value.repeatMinutes ?? NaN,
  burstRequests: draft.value.burstRequests ?? NaN,
  burstSeconds: draft.value.burstSeconds ?? NaN,
  robots: draft.value.robots
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean),
  ...(draft.value.ownByTest && { ownByTest: true }),
  ...(machines.value.length > 0 && { machines: machines.value }),
}));
const changed = computed(
  () =>
    JSON.stringify(rules.value) !==
    JSON.stringify({ ...defaultRules, robots: [], ...catalogue.settings.classification }),
);
const save = async () => {
  if ([rules.value.repeatMinutes, rules.value.burstRequests, rules.value.burstSeconds].some(Number.isNaN)) {
    problem.value = 'Each of the three numbers is needed: one of them is empty.';
    return;
  }
  const next = { ...catalogue.settings, classification: rules.value };
  const checked = checkRecord('settings', next);
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  notice.did('The past is counted anew by these rules.', await catalogue.saveRecord('settings', next));
};
/** Lets go a rule by which requests are treated as machines'; what else is being edited here stays. */
const countAgain = async (i: number) => {
  const { classification } = catalogue.settings;
  if (!classification) return;
  const left = machines.value.filter((_, n) => n !== i);
  const { machines: _all, ...rest } = classification;
  const next = { ...rest, ...(left.length > 0 && { machines: left }) };
  notice.did(
    'They count as what they were.',
    await catalogue.saveRecord('settings', { ...catalogue.settings, classification: next }),
  );
};
</script>

<template>
  <section aria-labelledby="h-classification">
    <h2 id="h-classification">What counts as a visit</h2>
    <p class="quiet">
      Nothing is thrown away: every request stays in the journal, and a change here counts the past anew.
    </p>
    <form @submit.prevent="save">
      <v-number-input
        v-model="draft.repeatMinutes"
        :min="0"
        :max="1440"
        label="Minutes in which the same visitor on the same link counts once"
      />
      <div class="two">
        <v-number-input
          v-model="draft.burstRequests"
          :min="2"
          label="More requests of one visitor than this"
        />
        <v-number-input
          v-model="draft.burstSeconds"
          :min="1"
          label="within so many seconds are a machine’s"
        />
      </div>
      <v-textarea
        v-model="draft.robots"
        class="mono"
        rows="1"
        auto-grow
        label="Pieces of user agents that are robots too, one a line"
      />
      <v-checkbox
        v-model="draft.ownByTest"
        label="Whoever opens a test hop is one of us: what they ask for that day, or as long as the cookie lives, is a test"
      />
      <ul v-if="machines.length > 0" aria-label="Treated as machines">
        <li v-for="(rule, i) in machines" :key="i">
          <span
            ><b class="mono">{{ rule.sources.map((name) => name || 'no source').join(', ') }}</b
            >, {{ moment(rule.from) }} to {{ moment(rule.until)
            }}{{ rule.agents.length > 0 ? `, ${rule.agents.length} user agents` : '' }}: treated as
            machines</span
          >
          <text-link @click="countAgain(i)">Count them again</text-link>
        </li>
      </ul>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <v-btn v-if="changed" type="submit" color="primary">Count anew</v-btn>
    </form>
  </section>
</template>

<style scoped>
.bad {
  margin: 0;
  color: var(--copper);
}
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
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
</style>
