<script setup lang="ts">
import type { Role } from '#core/catalogue';
import { roles } from '#core/catalogue';
import { roleWords } from './roleWords.ts';

/** What one parameter is for, to be corrected by one choice. */
defineProps<{ name: string; role: Role; reason: string }>();
const emit = defineEmits<{ choose: [role: Role] }>();
const choose = ({ target }: Event) => {
  const role = target instanceof HTMLSelectElement ? roles.find((r) => r === target.value) : undefined;
  if (role) emit('choose', role);
};
</script>

<template>
  <select :value="role" :title="reason" :aria-label="`What ${name} is for`" @change="choose">
    <option v-for="r in roles" :key="r" :value="r">{{ roleWords[r] }}</option>
  </select>
</template>

<style scoped>
select {
  height: 24px;
  padding: 0 4px;
  font-size: 13px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: 8px 2px;
}
</style>
