<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Cost } from '#core/catalogue';
import { readCostSentence } from '#core/costs';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import { today } from '../data/today.ts';
import { useNotice } from '../shell/notice.ts';
import { useCostWords } from './words.ts';

/** A cost typed as a sentence; what was understood stands below before it is kept. */
const props = defineProps<{ sources: readonly string[]; begin?: string }>();
const emit = defineEmits<{ done: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const words = useCostWords();
const text = ref(props.begin ?? '');
const reading = computed(() =>
  readCostSentence({
    text: text.value,
    sources: props.sources,
    links: catalogue.links,
    promotions: catalogue.promotions,
    currency: catalogue.settings.currency,
    today: today(),
  }),
);
/** Nothing is asked about before something is typed. */
const problem = computed(() => (text.value.trim() === '' || reading.value.ok ? '' : reading.value.problem));
const cost = computed((): Cost | undefined =>
  reading.value.ok ? { id: 'cst_new', ...reading.value.cost } : undefined,
);
const add = async () => {
  if (!cost.value) return;
  const value = { ...cost.value, id: newId('cst') };
  emit('done');
  notice.did('The cost is noted.', await catalogue.saveRecord('cost', value));
};
</script>

<template>
  <form @submit.prevent="add">
    <v-text-field
      v-model="text"
      label="What was paid, for what, and when"
      placeholder="€310 for bought-a from 14 to 16 Oct"
      persistent-placeholder
      autofocus
      maxlength="800"
      :error="problem !== ''"
      aria-describedby="cost-reading"
    />
    <p id="cost-reading" role="status">
      <span v-if="problem" class="bad">{{ problem }}</span>
      <template v-else-if="cost">
        <b>{{ words.amount(cost) }}</b> for {{ words.target(cost) }}, {{ words.days(cost)
        }}<template v-if="cost.note">: {{ cost.note }}</template>
      </template>
      <span v-else class="quiet"
        >Or by click: 0.045 EUR a click for flyer since 1 Oct. Or 30 % of the commission.</span
      >
    </p>
    <v-btn type="submit" color="primary" :disabled="!cost">Note this cost</v-btn>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
  width: min(520px, 86vw);
  padding: 16px;
  justify-items: start;
}
form > :first-child {
  width: 100%;
}
p {
  margin: 0;
  min-height: 2.6em;
}
.bad {
  color: var(--copper);
}
</style>
