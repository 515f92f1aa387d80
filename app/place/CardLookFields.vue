<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Settings } from '#core/catalogue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { cardLookOf, cardLookProblems, usualCards, usualLook } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

/** Words and colours of every card; contrast is checked as it is chosen. */
const emit = defineEmits<{ done: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const began = catalogue.rowNow('settings');
const words = ref({ ...usualCards, ...catalogue.settings.cards });
const colours = ref({ ...(catalogue.settings.placing ?? usualLook) });
const texts = [
  { key: 'button', label: 'Button' },
  { key: 'price', label: 'Price' },
  { key: 'list', label: 'Higher price' },
  { key: 'coupon', label: 'Coupon' },
  { key: 'until', label: 'Its end' },
  { key: 'language', label: 'Language' },
] as const;
const draft = computed((): Settings => ({
  ...catalogue.settings,
  cards: words.value,
  placing: colours.value,
}));
const problems = computed(() => {
  const checked = checkRecord('settings', draft.value);
  return checked.ok ? cardLookProblems(cardLookOf(draft.value)) : [firstProblem(checked)];
});
const save = async () => {
  const step = await catalogue.saveRecord('settings', draft.value, began);
  notice.did('Cards have these words and colours from now on.', step);
  emit('done');
};
</script>

<template>
  <form @submit.prevent="save">
    <div class="texts">
      <v-text-field v-for="{ key, label } in texts" :key="key" v-model="words[key]" :label="label" />
    </div>
    <div class="colours">
      <v-text-field v-model="words.paper" type="color" label="Behind it" />
      <v-text-field v-model="words.words" type="color" label="Text" />
      <v-text-field v-model="colours.link" type="color" label="Name" />
      <v-text-field v-model="colours.ground" type="color" label="Button" />
      <v-text-field v-model="colours.ink" type="color" label="Its words" />
    </div>
    <p v-for="problem in problems" :key="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="line">
      <v-btn type="submit" color="primary" :disabled="problems.length > 0">Save for all cards</v-btn>
      <v-btn class="quiet-button" @click="emit('done')">Cancel</v-btn>
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
}
.texts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(210px, 1fr));
  gap: 10px;
}
.colours {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(110px, 1fr));
  gap: 10px;
}
.line {
  display: flex;
  gap: 8px;
}
p {
  margin: 0;
}
.bad {
  color: var(--copper);
}
</style>
