<script setup lang="ts">
import { computed } from 'vue';
import type { Slot } from '#core/catalogue';
import { placeTitle, slotLoss } from '#core/link-parts';

/** The sub-ID slots of a network that is being registered: what fills each, and how much of it is kept. */
const slots = defineModel<Slot[]>({ required: true });
const fills = [
  { value: '{click}', title: 'the click ID' },
  { value: '{source}', title: 'the source' },
  { value: '', title: 'nothing by itself' },
] as const;
const change = (name: string, more: Partial<Slot>) => {
  slots.value = slots.value.map((slot) => (slot.name === name ? { ...slot, ...more } : slot));
};
const losses = computed(() =>
  slots.value.flatMap((slot) => {
    const loss = slot.fill === '{click}' ? slotLoss(slot, slot.fill) : undefined;
    return loss ? [`${placeTitle(slot.name)}: ${loss.message}`] : [];
  }),
);
</script>

<template>
  <p v-if="slots.length === 0" class="bad" role="note">
    None of its parts is a sub-ID slot, so no sale can be matched to its click. Say above which part takes
    one, or paste a link that has one, such as <code>&amp;sub1=</code>.
  </p>
  <div v-for="slot in slots" :key="slot.name" class="slot">
    <span :class="{ mono: placeTitle(slot.name) === slot.name }">{{ placeTitle(slot.name) }}</span>
    <v-select
      :model-value="slot.fill"
      :items="[...fills]"
      :label="`${placeTitle(slot.name)} is filled with`"
      @update:model-value="change(slot.name, { fill: $event })"
    />
    <v-number-input
      :model-value="slot.length"
      :min="1"
      :max="2000"
      control-variant="hidden"
      :label="`${placeTitle(slot.name)} keeps at most`"
      suffix="characters"
      @update:model-value="change(slot.name, { length: $event ?? 100 })"
    />
  </div>
  <p v-if="slots.length > 0" class="quiet">
    Its help page says how many it keeps. Where it does not, leave 100: the first postback shows what came
    back.
  </p>
  <p v-for="loss in losses" :key="loss" class="bad" role="note">{{ loss }}</p>
</template>

<style scoped>
.slot {
  display: grid;
  grid-template-columns: minmax(70px, 150px) minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  align-items: center;
  max-width: 720px;
  margin-bottom: 8px;
}
p {
  margin: 0 0 4px;
}
@media (max-width: 700px) {
  .slot {
    grid-template-columns: 1fr 1fr;
  }
  .slot > span {
    grid-column: 1 / -1;
  }
}
</style>
