<script setup lang="ts">
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
const choose = ({ target }: Event) => {
  const role = target instanceof HTMLSelectElement ? roles.find((r) => r === target.value) : undefined;
  if (role) emit('choose', role);
};
</script>

<template>
  <select
    class="small-field"
    :class="{ open }"
    :value="open ? '' : role"
    :title="reason"
    :aria-label="`What ${name} is for`"
    @change="choose"
  >
    <option v-if="open" value="" disabled>not known</option>
    <option v-for="r in roles" :key="r" :value="r">{{ roleWords[r] }}</option>
  </select>
</template>

<style scoped>
.open {
  color: var(--copper);
}
</style>
