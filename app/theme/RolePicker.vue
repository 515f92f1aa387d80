<script setup lang="ts">
import Hint from './Hint.vue';
import type { Role } from '#core/catalogue';
import { roles } from '#core/catalogue';
import { roleWords } from './roleWords.ts';

/** What one parameter is for, to be corrected by one choice. */
defineProps<{
  name: string;
  role: Role;
  /** Nothing tells its role: somebody has to say it. */
  open?: boolean;
  reason: string;
}>();
const emit = defineEmits<{ choose: [role: Role] }>();
const items = roles.map((value) => ({ value, title: roleWords[value] }));
</script>

<template>
  <span>
    <v-select
      single-line
      class="small-field"
      :class="{ open }"
      :items="items"
      :model-value="open ? null : role"
      placeholder="not known"
      :aria-label="`What ${name} is for`"
      @update:model-value="emit('choose', $event)"
    />
    <hint>{{ reason }}</hint>
  </span>
</template>

<style scoped>
/* Whole words, however narrow the column. */
.v-select {
  min-width: 128px;
}
.open {
  color: var(--copper);
}
</style>
