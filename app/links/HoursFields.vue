<script setup lang="ts">
import type { ClosedAnswer, Hours } from '#core/catalogue';
import ClosedFields from './ClosedFields.vue';

/** When a link is open, and what answers before and after. */
const hours = defineModel<Hours>({ required: true });
defineProps<{ zone: string; host: string }>();

const put = (name: 'from' | 'until' | 'zone', text: string) => {
  const { [name]: _, ...rest } = hours.value;
  hours.value =
    text.trim() === '' ? rest : { ...rest, [name]: text.trim().slice(0, name === 'zone' ? 64 : 16) };
};
const answer = (name: 'before' | 'after', value: ClosedAnswer | undefined) => {
  const { [name]: _, ...rest } = hours.value;
  hours.value = value ? { ...rest, [name]: value } : rest;
};
</script>

<template>
  <div class="times">
    <v-text-field
      :model-value="hours.from ?? ''"
      type="datetime-local"
      label="Open from"
      @update:model-value="put('from', $event)"
    />
    <v-text-field
      :model-value="hours.until ?? ''"
      type="datetime-local"
      label="Open until"
      @update:model-value="put('until', $event)"
    />
  </div>
  <template v-if="hours.from || hours.until">
    <v-text-field
      :model-value="hours.zone ?? ''"
      label="Zone of these times"
      :placeholder="zone"
      persistent-placeholder
      @update:model-value="put('zone', $event)"
    />
    <closed-fields
      v-if="hours.from"
      label="Before it opens"
      :otherwise="`As ${host} does`"
      :model-value="hours.before"
      @update:model-value="answer('before', $event)"
    />
    <closed-fields
      v-if="hours.until"
      label="After it closed"
      :otherwise="`As ${host} does`"
      :model-value="hours.after"
      @update:model-value="answer('after', $event)"
    />
  </template>
</template>

<style scoped>
.times {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
@media (max-width: 1100px) {
  .times {
    grid-template-columns: 1fr;
  }
}
</style>
