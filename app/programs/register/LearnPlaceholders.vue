<script setup lang="ts">
import { dequal } from 'dequal';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import type { Network } from '#core/catalogue';
import { clickSlot } from '#core/catalogue';
import type { PlaceholderStyle } from '#core/conversions';
import {
  askedFields,
  learnPostback,
  placeholdersIn,
  placeholderStyles,
  withLearned,
} from '#core/conversions';
import { useCatalogue } from '../../data/catalogue.ts';
import { fieldWords } from '../postback/fieldWords.ts';

/** A placeholder for each value: learnt from what a network's help page says, or in one of the usual styles. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const example = ref('');
const style = ref<PlaceholderStyle | undefined>();
const slot = computed(() => clickSlot(props.network.slots)?.name);
const pairs = computed(() => learnPostback(example.value, slot.value));
const said = computed((): string => {
  if (example.value.trim() === '') return '';
  if (pairs.value.length === 0)
    return 'No placeholder is in it. Copy the address it proposes, or its table of placeholders.';
  const found = pairs.value.flatMap(({ field }) => (field === undefined ? [] : [fieldWords[field]]));
  const others = pairs.value.flatMap(({ field, value, placeholder }) =>
    field === undefined && placeholder ? [value] : [],
  );
  return [
    found.length > 0 ? `Read: ${found.join(', ')}.` : 'Nothing in it says what it is.',
    others.length > 0 ? `Left out: ${others.join(' ')}.` : '',
  ].join(' ');
});
const save = (postback: Pick<Network['postback'], 'placeholders' | 'fields' | 'statuses'>) =>
  catalogue.saveRecord('network', {
    ...props.network,
    postback: { ...props.network.postback, ...postback },
  });
const learn = async () => {
  if (!pairs.value.some(({ field }) => field !== undefined)) return;
  style.value = undefined;
  // What a help page says stands in the place of what was proposed before.
  const { placeholders, fields, statuses } = props.network.postback;
  const taught = withLearned({ placeholders: {}, fields: {}, statuses }, pairs.value);
  if (!dequal(taught, { placeholders, fields, statuses })) await save(taught);
};
/** What is typed is read once the typing rests; what is pasted hardly waits. */
const restMs = 200;
let resting: ReturnType<typeof setTimeout> | undefined;
watch(example, () => {
  clearTimeout(resting);
  resting = setTimeout(() => void learn(), restMs);
});
onBeforeUnmount(() => clearTimeout(resting));
const propose = async (chosen: PlaceholderStyle | undefined) => {
  style.value = chosen;
  if (chosen === undefined) return;
  example.value = '';
  await save({
    placeholders: placeholdersIn(chosen, slot.value),
    fields: {},
    statuses: props.network.postback.statuses,
  });
};
const isEmpty = computed(() => askedFields(props.network.postback).length === 0);
</script>

<template>
  <v-textarea
    v-model="example"
    class="mono help"
    :rows="2"
    auto-grow
    :max-rows="8"
    spellcheck="false"
    label="Paste what its page says of placeholders: an address, a table, a help text"
  />
  <p v-if="said !== ''" role="status" :class="pairs.length === 0 ? 'bad' : 'quiet'">{{ said }}</p>
  <div class="styles">
    <span class="quiet">{{ isEmpty ? 'Or say how they look there:' : 'Or how they look there:' }}</span>
    <v-chip-group
      :model-value="style"
      column
      variant="outlined"
      aria-label="Style of its placeholders"
      @update:model-value="propose($event)"
    >
      <v-chip v-for="one in placeholderStyles" :key="one" :value="one" class="mono">{{
        one.replace('*', 'name')
      }}</v-chip>
    </v-chip-group>
  </div>
  <p v-if="style !== undefined" class="note" role="note">
    These names are the usual ones. Hold them against its help page: one it does not know arrives as it
    stands.
  </p>
</template>

<style scoped>
.help {
  max-width: 760px;
}
p {
  margin: 4px 0;
}
.styles {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 10px;
  margin-top: 4px;
}
.bad,
.note {
  color: var(--copper);
}
</style>
